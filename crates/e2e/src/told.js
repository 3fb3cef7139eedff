// Errors and warnings the page tells the console, kept over loads of the page.
(() => {
    const key = 'nimbet.told';
    const keep = (what) => {
        const told = JSON.parse(sessionStorage.getItem(key) ?? '[]');
        sessionStorage.setItem(key, JSON.stringify([...told, String(what).slice(0, 500)].slice(-50)));
    };
    for (const kind of ['error', 'warn']) {
        const before = console[kind];
        console[kind] = (...all) => {
            keep(`${kind}: ${all.map(String).join(' ')}`);
            before(...all);
        };
    }
    addEventListener('error', (e) => keep(`error: ${e.message}`));
    addEventListener('unhandledrejection', (e) => keep(`unhandled: ${e.reason}`));
})();
