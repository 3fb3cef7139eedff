// Which two threads of the job are screwed into each other, and what came of it.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { answer, api, type Schemas } from '../api/client';
import { keyOf, pairOf, type Held } from '../fitPair';
import { useFasten } from './fasten';
import { useJob } from './job';

export const useFits = defineStore('fits', () => {
    const jobs = useJob();
    const fasten = useFasten();
    const bore = ref<string | null>(null);
    const pin = ref<string | null>(null);
    /** Whether the pair has a thread that was just made. */
    const offered = ref(false);
    let known: ReadonlySet<string> | null = null;
    let job: string | undefined;

    // The sides are those last touched: a thread that was just made, and the newest that goes with it.
    watch(
        () => fasten.all,
        (all) => {
            if (job !== jobs.job?.id) [job, known] = [jobs.job?.id, null];
            const keys = new Set(all.map(keyOf));
            const fresh = known && all.filter((h) => !known!.has(keyOf(h))).pop();
            known = keys;
            const there = keys.has(bore.value ?? '') && keys.has(pin.value ?? '');
            if (there && !fresh) return;
            const pair = pairOf(all, fresh ?? null);
            bore.value = pair ? keyOf(pair.bore) : null;
            pin.value = pair ? keyOf(pair.pin) : null;
            offered.value = !!fresh && !!pair?.alike;
        },
        { immediate: true },
    );

    const find = (key: string | null) => fasten.all.find((h) => keyOf(h) === key);
    const sides = computed(() => {
        const [internal, external] = [find(bore.value), find(pin.value)];
        return internal && external ? { internal, external } : null;
    });
    const fit = shallowRef<{ of: string; report: Schemas['FitReport'] } | null>(null);
    watch(
        () => jobs.job?.revision,
        () => (fit.value = null),
    );
    /** Whether it was asked for beside what was just done: it is told there. */
    const inNote = ref(false);
    async function check(fromNote = false) {
        inNote.value = fromNote;
        const [now, pair] = [jobs.job, sides.value];
        if (!now || !pair) return;
        const { internal, external } = pair;
        fit.value = null;
        offered.value = false;
        const ref = (h: Held) => ({ part: h.part, step: h.thread.step, face: h.thread.mark.face });
        const options = {
            params: { path: { job: now.id } },
            body: { internal: ref(internal), external: ref(external) },
        };
        const over = await fasten.run(answer(api.POST('/api/v1/jobs/{job}/fits', options)));
        const report = over?.result?.fit;
        if (report) fit.value = { of: `${external.partName} in ${internal.partName}`, report };
    }

    return { bore, pin, offered, sides, fit, inNote, check };
});
