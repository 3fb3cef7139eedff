<script setup lang="ts">
// Bores, threads and inserts: what the part has of them, and the tools that make them.
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import AppliedNote from '../AppliedNote.vue';
import FitPanel from '../fasten/FitPanel.vue';
import ThreadList from '../fasten/ThreadList.vue';
import ForecastPanel from '../ForecastPanel.vue';
import ProcessFields from '../ProcessFields.vue';
import ToolFields from '../../tools/ToolFields.vue';
import ToolList from '../ToolList.vue';

const bench = useBench();
const forecast = useForecast();
</script>

<template>
    <p v-if="!bench.part" class="soft">Bring a part in first.</p>
    <template v-else>
        <p v-if="bench.part.figures.state !== 'sealed'" class="mb-2" data-testid="fasten-summary">
            <b>{{ bench.part.name }}</b> is {{ bench.part.figures.reason }}. Bores and threads need a solid:
            seal it first.
        </p>
        <AppliedNote />
        <ForecastPanel v-if="forecast.draft"><ToolFields /></ForecastPanel>
        <template v-else>
            <ProcessFields />
            <ThreadList />
            <FitPanel />
            <ToolList station="fasten" />
        </template>
    </template>
</template>
