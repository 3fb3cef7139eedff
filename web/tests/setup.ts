// What the modules under test find in a browser.
const held = new Map<string, string>();
const PlainRequest = Request;
Object.assign(globalThis, {
    localStorage: {
        getItem: (key: string) => held.get(key) ?? null,
        setItem: (key: string, value: string) => held.set(key, value),
    },
    // Addresses begin at the page.
    Request: class extends PlainRequest {
        constructor(input: string | URL | Request, options?: RequestInit) {
            const own = typeof input === 'string' && input.startsWith('/');
            super(own ? `http://bench.test${input}` : input, options);
        }
    },
    fetch: askWhoAnswersNow,
});

/** The client holds on to what is there when it is made; a test may put another in its place. */
function askWhoAnswersNow(...args: Parameters<typeof fetch>): ReturnType<typeof fetch> {
    if (globalThis.fetch === askWhoAnswersNow)
        return Promise.reject(new TypeError('there is no server here'));
    return globalThis.fetch(...args);
}
