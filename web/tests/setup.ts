// What the modules under test find in a browser.
const held = new Map<string, string>();
Object.assign(globalThis, {
    localStorage: {
        getItem: (key: string) => held.get(key) ?? null,
        setItem: (key: string, value: string) => held.set(key, value),
    },
});
