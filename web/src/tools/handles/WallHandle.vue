<script setup lang="ts">
// A handle that drags the thickness of the considered wall out of the surface in the middle of the view.
import { computed, ref, watch } from 'vue';
import type { Action } from '../../api/client';
import { millimetres } from '../../format';
import type { Xyz } from '../../rimRuns';
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import { usePicks } from '../picking/picks';
import type { Bench } from '../../viewport/bench';
import AxisHandle from './AxisHandle.vue';

const props = defineProps<{ view: Bench | null; drawn: number }>();
const bench = useBench();
const forecast = useForecast();
const picks = usePicks();

/** How far out of the surface the step goes, mm, and the step with another such distance. */
const held = computed<{ by: number; with: (by: number) => Action } | null>(() => {
    const a = forecast.draft;
    const above = (x: number) => Math.max(x, 0.001);
    switch (a?.kind) {
        case 'wall.thicken': {
            if (a.outward && a.inward) return null;
            const with_ = (by: number) => ({ ...a, outward: Math.max(by, 0), inward: Math.max(-by, 0) });
            return { by: (a.outward ?? 0) - (a.inward ?? 0), with: with_ };
        }
        case 'wall.hollow':
            return { by: -a.wall, with: (by) => ({ ...a, wall: above(-by) }) };
        case 'wall.shell':
            return a.outward
                ? { by: a.wall, with: (by) => ({ ...a, wall: above(by) }) }
                : { by: -a.wall, with: (by) => ({ ...a, wall: above(-by) }) };
        case 'wall.coat':
            return { by: a.thickness, with: (by) => ({ ...a, thickness: above(by) }) };
        case 'wall.grow':
            return { by: a.by, with: (by) => ({ ...a, by }) };
        case 'wall.offset_sheet':
            return { by: a.distance, with: (by) => ({ ...a, distance: by }) };
        default:
            return null;
    }
});

const foot = ref<{ at: Xyz; normal: Xyz } | null>(null);
watch([() => forecast.draft?.kind, () => bench.part?.mesh, () => props.view], () => (foot.value = null));
// Where the middle of the view meets the part, or near it.
watch([() => props.drawn, held] as const, () => {
    const { view } = props;
    if (foot.value || !held.value || !view || !bench.part) return;
    const { width, height } = view.size();
    for (const [dx, dy] of [
        [0, 0],
        [0.1, 0],
        [-0.1, 0],
        [0, 0.15],
        [0, -0.15],
        [0.2, 0.1],
        [-0.2, 0.1],
    ] as const) {
        const hit = view.probe.surfaceAt(width * (0.5 + dx), height * (0.5 + dy), bench.part.id);
        if (!hit) continue;
        foot.value = { at: hit.at, normal: hit.normal };
        return;
    }
});
const at = computed<Xyz | null>(() => {
    if (!foot.value || !held.value) return null;
    return foot.value.at.map((x, i) => x + foot.value!.normal[i]! * held.value!.by) as Xyz;
});
const tidy = (x: number) => Number(x.toFixed(2));
const told = (by: number) => `${millimetres(Math.abs(by))} ${by < 0 ? 'inside' : 'outside'}`;
</script>

<template>
    <AxisHandle
        v-if="at && foot && held"
        :view="view"
        :drawn="drawn"
        :at="at"
        :way="foot.normal"
        :text="(moved) => told(tidy(held!.by + moved))"
        label="Thickness"
        testid="wall-handle"
        @moved="held && tidy(held.by + $event) && picks.change(held.with(tidy(held.by + $event)))"
    />
</template>
