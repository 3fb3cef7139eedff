// What the selected part weighs, and how far that is to be believed. Kept by content hash.
import { defineStore } from 'pinia';
import { computed, shallowReactive, watch } from 'vue';
import { answer, api, type Schemas } from '../api/client';
import { useBench } from './bench';

export const useWeights = defineStore('weights', () => {
    const bench = useBench();
    const kept = shallowReactive(new Map<string, Schemas['WeighingView']>());
    const seen = computed(() => (bench.part && kept.get(bench.part.mesh)) || null);

    async function look() {
        const mesh = bench.part?.mesh;
        if (bench.station !== 'weigh' || !mesh || kept.has(mesh)) return;
        const params = { path: { mesh } };
        const got = await answer(api.GET('/api/v1/meshes/{mesh}/weighing', { params })).catch(() => null);
        if (got) kept.set(mesh, got);
    }
    watch([() => bench.part?.mesh, () => bench.station], () => void look(), { immediate: true });

    /** The axes about which the part turns freely, each with the inertia about it, mm⁵; the least first. */
    const principal = computed(() => seen.value?.weighing.principal ?? null);

    return { seen, principal };
});
