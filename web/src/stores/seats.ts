// Where the bores of the considered step are and which way they go, worked out at once, before they are made.
import { defineStore } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import { answer, api, type Schemas } from '../api/client';
import { useAsking } from './asking';
import { useBench } from './bench';
import { useForecast } from './forecast';

export const useSeats = defineStore('seats', () => {
    const bench = useBench();
    const forecast = useForecast();
    const asking = useAsking();
    const found = shallowRef<Schemas['BoreSeats'] | null>(null);
    const bore = computed(() => (forecast.draft?.kind === 'fasten.bore' ? forecast.draft : null));
    /** What the seats depend on. */
    const key = computed(() => {
        const a = bore.value;
        if (!a || ('points' in a.places && !a.places.points.length)) return null;
        return JSON.stringify([bench.part?.mesh, a.places, a.face, a.along]);
    });
    watch(
        key,
        async () => {
            const [a, mesh] = [bore.value, bench.part?.mesh];
            if (!key.value || !a || !mesh) {
                found.value = null;
                return;
            }
            const ask = { params: { path: { mesh } }, body: { action: a } };
            const got = await asking.ask((named) =>
                answer(api.POST('/api/v1/meshes/{mesh}/bore-seats', { ...ask, ...named })),
            );
            if (got) found.value = got.found;
        },
        { immediate: true },
    );
    return { found };
});
