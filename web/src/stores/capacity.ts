// What a vessel holds: its pick, its level, the liquid. Nothing here changes a part; the liquid can be kept by a step.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { answer, api, ProblemError, type Action, type Schemas } from '../api/client';
import { useBench } from './bench';
import { useForecast } from './forecast';
import { usePicks } from '../tools/picking/picks';

type Xyz = [number, number, number];
type To = { depth: number } | { volume: number } | null;

export const useCapacity = defineStore('capacity', () => {
    const bench = useBench();
    const picks = usePicks();
    const forecast = useForecast();
    const vessel = ref<{ part: number; at: Xyz; seen: Xyz | null } | null>(null);
    const up = ref<Xyz>([0, 0, 1]);
    /** Null is to the brim. */
    const to = ref<To>(null);
    const got = shallowRef<Schemas['Capacity'] | null>(null);
    const trouble = ref('');
    /** Grams a millilitre weighs. */
    const density = ref(1);
    let asking = false;
    let again = false;

    const here = computed(() => !!vessel.value && vessel.value.part === bench.part?.id);

    function pick() {
        picks.ask('Click the inside of the vessel.', 1, ([p]) => {
            if (!p) return;
            vessel.value = { part: p.on?.part ?? bench.part!.id, at: p.at, seen: p.seen ?? null };
            if (p.on && p.on.part !== bench.part?.id) bench.selectPart(p.on.part);
            to.value = null;
            got.value = null;
        });
    }
    function clear() {
        vessel.value = null;
        got.value = null;
        trouble.value = '';
    }
    /** One request at a time; the last wish counts. */
    async function fill() {
        const [v, part] = [vessel.value, bench.part];
        if (!v || !part || v.part !== part.id) return;
        if (asking) {
            again = true;
            return;
        }
        asking = true;
        try {
            const query = {
                at: v.at.join(),
                up: up.value.join(),
                ...(v.seen ? { seen: v.seen.join() } : {}),
                ...(to.value ?? {}),
            };
            const options = { params: { path: { mesh: part.mesh }, query } };
            got.value = (await answer(api.GET('/api/v1/meshes/{mesh}/capacity', options))).capacity;
            trouble.value = '';
        } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
            got.value = null;
            trouble.value = error.problem.detail;
        } finally {
            asking = false;
        }
        if (again) {
            again = false;
            await fill();
        }
    }
    // Kept as a part, the liquid stands there itself.
    watch(
        () => forecast.applied?.title,
        (title) => title === 'Fill' && clear(),
    );
    watch([vessel, to, up, () => bench.part?.mesh], () => void fill(), { deep: true });

    /** The step that makes a part of the liquid. */
    const step = computed<Action | null>(() => {
        const v = vessel.value;
        if (!v || !got.value) return null;
        return {
            kind: 'weigh.fill',
            vessel: { at: v.at, seen: v.seen, up: up.value },
            to: to.value ?? 'brim',
        } as Action;
    });

    return { vessel, up, to, got, trouble, density, here, pick, clear, step };
});
