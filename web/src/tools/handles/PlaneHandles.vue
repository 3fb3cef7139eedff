<script setup lang="ts">
// Handles of the considered step: planes along their normals, a part along the axes.
import { computed } from 'vue';
import { millimetres } from '../../format';
import { movedBy, offsetOf, planesOf, axisOf } from '../../planes';
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import { usePicks } from '../picking/picks';
import type { Bench } from '../../viewport/bench';
import type { Xyz } from '../../rimRuns';
import AxisHandle from './AxisHandle.vue';

defineProps<{ view: Bench | null; drawn: number }>();
const bench = useBench();
const forecast = useForecast();
const picks = usePicks();

const planes = computed(() => planesOf(forecast.draft));
/** Where the handle of a plane is: over the middle of the part. */
function handleAt({ at, normal }: { at: readonly number[]; normal: readonly number[] }): Xyz {
    const f = bench.part?.figures;
    const middle = f ? f.least.map((x, i) => x + f.size[i]! / 2) : at;
    const size = Math.hypot(...normal) || 1;
    const off = middle.reduce((s, x, i) => s + ((at[i]! - x) * normal[i]!) / size, 0);
    return middle.map((x, i) => x + (normal[i]! / size) * off) as Xyz;
}
const name = (normal: readonly number[]) => ['x', 'y', 'z'][axisOf(normal) ?? 3] ?? 'off';

const place = computed(() => (forecast.draft?.kind === 'shape.place' ? forecast.draft : null));
const by = computed(() => (place.value?.by ?? [0, 0, 0]) as readonly number[]);
const grips = computed(() => {
    const f = bench.part?.figures;
    if (!place.value || !f) return [];
    return [0, 1, 2].map((k) => {
        const at = f.least.map((x, i) => x + f.size[i]! / 2 + by.value[i]!) as Xyz;
        // At the end of the part, where the handles do not hide each other.
        at[k]! += f.size[k]! / 2;
        return { k, at, way: [0, 1, 2].map((i) => (i === k ? 1 : 0)) as Xyz };
    });
});
/** A handle at the side of the part turns it about the chosen axis. */
const turning = computed(() => {
    const f = bench.part?.figures;
    if (!place.value || !f) return null;
    const axis = 'xyz'.indexOf(place.value.turn?.axis ?? 'z');
    const [out, way] = [(axis + 1) % 3, (axis + 2) % 3];
    const at = f.least.map((x, i) => x + f.size[i]! / 2 + by.value[i]!) as Xyz;
    at[out]! -= f.size[out]! / 2;
    return {
        at,
        // Counter-clockwise seen against the axis, on the far side of it.
        way: [0, 1, 2].map((i) => (i === way ? -1 : 0)) as Xyz,
        arm: Math.max(f.size[out]! / 2, 1e-6),
        axis: (['x', 'y', 'z'] as const)[axis]!,
    };
});
const turned = (moved: number) => {
    const t = turning.value;
    const more = t ? (moved / t.arm) * (180 / Math.PI) : 0;
    return Number(((place.value?.turn?.degrees ?? 0) + more).toFixed(0));
};
const shift = (k: number, moved: number) =>
    by.value.map((x, i) => (i === k ? Number((x + moved).toFixed(2)) : x)) as Xyz;
</script>

<template>
    <AxisHandle
        v-for="(p, i) in planes"
        :key="i"
        :view="view"
        :drawn="drawn"
        :at="handleAt(p.plane)"
        :way="p.plane.normal as Xyz"
        :text="(moved) => `${name(p.plane.normal)} ${millimetres(offsetOf(movedBy(p.plane, moved)))}`"
        label="Place of the plane"
        :testid="`plane-handle-${i}`"
        @moved="picks.change(p.with(movedBy(p.plane, Number($event.toFixed(2)))))"
    />
    <AxisHandle
        v-for="g in grips"
        :key="`grip ${g.k}`"
        :view="view"
        :drawn="drawn"
        :at="g.at"
        :way="g.way"
        :text="(moved) => `${'xyz'[g.k]} ${millimetres(shift(g.k, moved)[g.k]!)}`"
        :label="`Move along ${'xyz'[g.k]}`"
        :testid="`grip-${'xyz'[g.k]}`"
        @moved="place && picks.change({ ...place, by: shift(g.k, $event) })"
    />
    <AxisHandle
        v-if="turning && place"
        :view="view"
        :drawn="drawn"
        :at="turning.at"
        :way="turning.way"
        :text="(moved) => `↻ ${turned(moved)}°`"
        :label="`Turn about ${turning.axis}`"
        testid="turn-handle"
        @moved="picks.change({ ...place, turn: { axis: turning.axis, degrees: turned($event) } })"
    />
</template>
