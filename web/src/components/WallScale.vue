<script setup lang="ts">
import { computed } from 'vue';
import * as f from '../format';
import { useClearance } from '../stores/clearance';
import { useForecast } from '../stores/forecast';
import { useWalls } from '../stores/walls';
import { deviationSteps } from '../viewport/materials';

const walls = useWalls();
const forecast = useForecast();
const clearance = useClearance();
/** Of a forecast that is a solid the wall is drawn, too. */
const drawn = computed(
    () => !!clearance.other || forecast.ready?.report.after.state === 'sealed' || walls.measurable,
);
const what = computed(() => {
    if (clearance.other) return `Clearance to ${clearance.other.name}`;
    return walls.outside ? 'Gap' : 'Wall';
});
const [top, least] = [
    computed(() => (clearance.other ? clearance.asked * 4 || 1 : walls.top)),
    computed(() => (clearance.other ? clearance.asked : (walls.least ?? 0))),
];
const steps = [...deviationSteps].reverse();
const from = (i: number) => (top.value * i) / (steps.length - 1);
</script>

<template>
    <div role="img" data-testid="wall-scale" :aria-label="`${what}: scale from 0 to ${f.millimetres(top)}`">
        <span class="small-caps">{{ what }}</span>
        <template v-if="drawn">
            <span v-for="(c, i) in steps.slice(0, -1)" :key="c" class="step figure">
                <i :style="{ background: c }" />{{ f.figure(from(i)) }} to {{ f.millimetres(from(i + 1)) }}
            </span>
            <span class="step figure"
                ><i :style="{ background: deviationSteps[0] }" />over {{ f.millimetres(top) }}</span
            >
            <span class="step figure"><i class="hatched" />below {{ f.millimetres(least) }}</span>
            <b v-if="walls.under != null" class="figure" data-testid="wall-under">
                here
                {{
                    walls.under > top * 200 ? (clearance.other ? 'far' : 'thick') : f.millimetres(walls.under)
                }}
            </b>
        </template>
        <span v-else>none: the part is not sealed</span>
    </div>
</template>

<style scoped>
.hatched {
    background: repeating-linear-gradient(45deg, #4a1240 0 3px, #fbf9f4 3px 5px);
}
</style>
