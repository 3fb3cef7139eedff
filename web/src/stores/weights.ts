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

    /** The axes about which the part turns freely, and the inertia about each, mm⁵; the least first (Jacobi 1846). */
    const principal = computed(() => {
        const held = seen.value?.weighing.inertia;
        if (!held) return null;
        const [xx, yy, zz, xy, yz, zx] = held as [number, number, number, number, number, number];
        const m = [
            [xx, xy, zx],
            [xy, yy, yz],
            [zx, yz, zz],
        ];
        const ways = [
            [1, 0, 0],
            [0, 1, 0],
            [0, 0, 1],
        ];
        const whole = Math.hypot(...m.flat());
        for (let round = 0; round < 50; round++) {
            const [p, q] = [
                [0, 1],
                [0, 2],
                [1, 2],
            ].reduce((a, b) => (Math.abs(m[b[0]!]![b[1]!]!) > Math.abs(m[a[0]!]![a[1]!]!) ? b : a)) as [
                number,
                number,
            ];
            if (Math.abs(m[p]![q]!) <= 1e-14 * whole) break;
            const turn = Math.atan2(2 * m[p]![q]!, m[q]![q]! - m[p]![p]!) / 2;
            const [c, s] = [Math.cos(turn), Math.sin(turn)];
            for (let k = 0; k < 3; k++)
                [m[k]![p], m[k]![q]] = [c * m[k]![p]! - s * m[k]![q]!, s * m[k]![p]! + c * m[k]![q]!];
            for (let k = 0; k < 3; k++)
                [m[p]![k], m[q]![k]] = [c * m[p]![k]! - s * m[q]![k]!, s * m[p]![k]! + c * m[q]![k]!];
            for (let k = 0; k < 3; k++)
                [ways[k]![p], ways[k]![q]] = [
                    c * ways[k]![p]! - s * ways[k]![q]!,
                    s * ways[k]![p]! + c * ways[k]![q]!,
                ];
        }
        return [0, 1, 2]
            .map((i) => ({ inertia: m[i]![i]!, way: ways.map((row) => row[i]!) }))
            .sort((a, b) => a.inertia - b.inertia);
    });
    const axes = computed(() => principal.value?.map((p) => p.way) ?? null);

    return { seen, principal, axes };
});
