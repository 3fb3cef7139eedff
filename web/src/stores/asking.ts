// One question at a time: a later one stops the one before.
import { ref, shallowRef } from 'vue';
import { watched, type Far, type Named } from '../api/watched';

export function useAsking() {
    const busy = ref(false);
    /** How far the answer is, once it takes long. */
    const far = shallowRef<Far | null>(null);
    /** Whether a person stopped it. */
    const stopped = ref(false);
    let now: AbortController | null = null;

    /** Asks; nothing comes of it where it fails, is stopped, or another question is asked meanwhile. */
    async function ask<T>(question: (named: Named) => Promise<T>): Promise<T | null> {
        now?.abort();
        const mine = (now = new AbortController());
        [busy.value, stopped.value, far.value] = [true, false, null];
        try {
            const got = await watched(question, (f) => (mine === now ? (far.value = f) : null), mine.signal);
            return mine === now ? got : null;
        } catch {
            return null;
        } finally {
            if (mine === now) busy.value = false;
        }
    }
    function stop() {
        now?.abort();
        [now, busy.value, far.value, stopped.value] = [null, false, null, true];
    }
    return { busy, far, stopped, ask, stop };
}
