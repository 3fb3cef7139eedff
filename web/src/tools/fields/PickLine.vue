<script setup lang="ts">
// What is picked so far, and what to do next.
import { computed } from 'vue';
import { useForecast } from '../../stores/forecast';
import LengthField from './LengthField.vue';
import { usePicks } from '../picking/picks';

const picks = usePicks();
const forecast = useForecast();
const words: Record<string, [string, string]> = {
    face: ['face', 'faces'],
    shell: ['shell', 'shells'],
    edge: ['edge', 'edges'],
    'rim point': ['point', 'points'],
    brush: ['dab', 'dabs'],
    rim: ['rim', 'rims'],
    point: ['point', 'points'],
    sight: ['point', 'points'],
    chamber: ['chamber', 'chambers'],
    spot: ['place', 'places'],
};
const text = computed(() => {
    const now = picks.picking;
    if (!now) return '';
    const [one, many] = words[now.kind]!;
    return now.points.length
        ? `${now.points.length} ${now.points.length === 1 ? one : many} picked`
        : now.hint;
});
const lacks = computed(() => (forecast.draft ? picks.missing(forecast.draft) : null));
</script>

<template>
    <div
        v-if="picks.picking && picks.picking.kind !== 'chamber'"
        class="picks"
        role="status"
        data-testid="picks"
    >
        <p>{{ text }}</p>
        <p v-if="lacks && lacks !== text" class="soft">{{ lacks }}</p>
        <LengthField
            v-if="picks.picking.kind === 'brush'"
            label="Radius of the brush"
            :value="picks.brush"
            testid="brush"
            @change="picks.brush = $event ?? picks.brush"
        />
        <v-btn
            v-if="picks.picking.points.length"
            size="x-small"
            variant="outlined"
            data-testid="clear-picks"
            @click="picks.set([])"
            >Clear</v-btn
        >
    </div>
</template>

<style scoped>
.picks {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px;
    margin-top: 8px;
    font-size: 13px;
}
</style>
