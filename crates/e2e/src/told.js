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
    // A size that changed while sizes were being told is told in the next frame: by the standard no fault of the page.
    const later = 'ResizeObserver loop completed with undelivered notifications.';
    addEventListener('error', (e) => e.message === later || keep(`error: ${e.message}`));
    addEventListener('unhandledrejection', (e) => keep(`unhandled: ${e.reason}`));
})();
