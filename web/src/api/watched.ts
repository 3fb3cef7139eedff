// Questions whose answers may take long: how far they are is told, and they can be given up.

/** How far an answer is. */
export interface Far {
    /** From 0 to 1. */
    fraction: number;
    doing: string;
}

/** What goes with a question, for the client and for a plain fetch. */
export interface Named {
    headers: Record<string, string>;
    signal: AbortSignal;
}

/** Only answers that take longer are told about, ms. */
const AFTER = 400;

/** Asks, and tells how far it is until there is an answer, or until it is stopped. */
export async function watched<T>(
    ask: (named: Named) => Promise<T>,
    tell: (far: Far | null) => void,
    stop: AbortSignal,
): Promise<T> {
    const name = `${Date.now().toString(36)}-${Math.random().toString(36).slice(2)}`;
    const timer = setInterval(async () => {
        const got = await fetch(`/api/v1/watch/${name}`).catch(() => null);
        if (got?.ok && !stop.aborted) tell((await got.json()) as Far);
    }, AFTER);
    stop.addEventListener('abort', () => clearInterval(timer));
    try {
        return await ask({ headers: { 'Nimbet-Watch': name }, signal: stop });
    } finally {
        clearInterval(timer);
        tell(null);
    }
}
