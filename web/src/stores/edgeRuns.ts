// The runs of edges the considered step means, and the largest figure each could have: worked out before anything is done; first by
// where they touch the faces, then tried out.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { answer, api, type Action, type Schemas } from '../api/client';
import { useAsking } from './asking';
import { useBench } from './bench';
import { useForecast } from './forecast';

type OnEdges = Extract<Action, { kind: 'shape.round' | 'shape.chamfer' }>;

/** What the runs depend on: not the figure they are given. */
export function meant(action: OnEdges): unknown[] | null {
    const { on } = action;
    const picks = 'edges' in on ? on.edges : 'faces' in on ? on.faces : 'between' in on ? on.between : null;
    if (picks && !picks.length) return null;
    return action.kind === 'shape.round'
        ? [action.kind, on, action.also, action.whole, action.far]
        : [action.kind, on, action.second, action.swapped];
}

export const useEdgeRuns = defineStore('edgeRuns', () => {
    const bench = useBench();
    const forecast = useForecast();
    const asking = useAsking();
    const found = shallowRef<Schemas['EdgeRuns'] | null>(null);
    /** The one pointed to in the list, if any. */
    const pointed = ref<number | null>(null);
    const step = computed(() => {
        const a = forecast.draft;
        return a?.kind === 'shape.round' || a?.kind === 'shape.chamfer' ? a : null;
    });
    const key = computed(() => {
        const on = step.value && meant(step.value);
        return on ? JSON.stringify([bench.part?.mesh, on]) : null;
    });
    watch(
        key,
        async (asked) => {
            const [action, mesh] = [step.value, bench.part?.mesh];
            if (!asked || !action || !mesh) {
                found.value = null;
                return;
            }
            for (const tried of [false, true]) {
                const ask = { params: { path: { mesh } }, body: { action, tried } };
                const got = await asking.ask((named) =>
                    answer(api.POST('/api/v1/meshes/{mesh}/edge-runs', { ...ask, ...named })),
                );
                if (key.value !== asked) return;
                // What cannot be tried stays as it was told.
                if (got || !tried) found.value = got?.found ?? null;
                if (!got) return;
            }
        },
        { immediate: true },
    );
    watch(key, () => (pointed.value = null));
    return { found, pointed, trying: asking.busy };
});
