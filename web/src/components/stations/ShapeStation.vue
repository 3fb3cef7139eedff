<script setup lang="ts">
// Bodies added, taken away, cut, placed and made.
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import AppliedNote from '../AppliedNote.vue';
import ForecastPanel from '../ForecastPanel.vue';
import ToolFields from '../../tools/ToolFields.vue';
import ToolList from '../ToolList.vue';

const bench = useBench();
const forecast = useForecast();
</script>

<template>
    <p v-if="!bench.part" class="soft">Bring a part in first.</p>
    <template v-else>
        <p v-if="bench.part.figures.state !== 'sealed'" class="mb-2" data-testid="shape-summary">
            <b>{{ bench.part.name }}</b> is {{ bench.part.figures.reason }}. Union, difference and saw need
            solids; the other tools work on any part.
        </p>
        <AppliedNote />
        <ForecastPanel v-if="forecast.draft"><ToolFields /></ForecastPanel>
        <ToolList v-else station="shape" />
    </template>
</template>
