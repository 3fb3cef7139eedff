<script setup lang="ts">
// The tool that is open, at the station it was taken up at, and what the last one did.
import { useForecast } from '../stores/forecast';
import ToolFields from '../tools/ToolFields.vue';
import AppliedNote from './AppliedNote.vue';
import ForecastPanel from './ForecastPanel.vue';

const forecast = useForecast();
</script>

<template>
    <AppliedNote />
    <ForecastPanel v-if="forecast.inSight"><ToolFields /></ForecastPanel>
    <slot v-else />
</template>
