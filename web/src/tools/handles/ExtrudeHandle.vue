<script setup lang="ts">
// A handle that draws an extruded body out of the paper, above and below.
import { computed } from 'vue';
import { lifted, normalOf } from '../../board/plane';
import { millimetres } from '../../format';
import type { Xyz } from '../../rimRuns';
import { useProfiles } from '../../stores/profiles';
import type { Bench } from '../../viewport/bench';
import { usePicks } from '../picking/picks';
import AxisHandle from './AxisHandle.vue';

defineProps<{ view: Bench | null; drawn: number }>();
const profiles = useProfiles();
const picks = usePicks();
const step = computed(() =>
    profiles.picking && profiles.step?.kind === 'shape.extrude' ? profiles.step : null,
);
/** In the middle of the largest region that makes the body. */
const foot = computed(() => {
    const taken = profiles.taken.map((n) => profiles.facts[n]!);
    return taken.sort((a, b) => b.area - a.area)[0]?.at;
});
const sides = computed(() => {
    const [a, f] = [step.value, profiles.view];
    if (!a || !f || !foot.value || (a.until ?? 'figures') !== 'figures') return [];
    const normal = normalOf(f);
    const side = (name: 'above' | 'below', way: Xyz) => {
        const by = a[name] ?? 0;
        const at = lifted(f, foot.value!).map((x, i) => x + way[i]! * by) as Xyz;
        const with_ = (moved: number) => Math.max(Number((by + moved).toFixed(2)), 0);
        return { name, at, way, with: with_ };
    };
    const below = normal.map((x) => -x) as Xyz;
    return [side('above', normal), ...(a.below ? [side('below', below)] : [])];
});
</script>

<template>
    <AxisHandle
        v-for="s in sides"
        :key="s.name"
        :view="view"
        :drawn="drawn"
        :at="s.at"
        :way="s.way"
        :text="(moved) => millimetres(s.with(moved))"
        :label="s.name === 'above' ? 'How far' : 'How far the other way'"
        :testid="`extrude-${s.name}`"
        @moved="step && picks.change({ ...step, [s.name]: s.with($event) })"
    />
</template>
