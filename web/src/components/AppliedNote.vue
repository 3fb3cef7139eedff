<script setup lang="ts">
// What the step just applied did, and what it left.
import { ref, watch } from 'vue';
import { told } from '../format';
import { useFasten } from '../stores/fasten';
import { useFits } from '../stores/fits';
import { useForecast } from '../stores/forecast';
import FitResult from './fasten/FitResult.vue';

const forecast = useForecast();
const fasten = useFasten();
const fits = useFits();
const note = ref<HTMLElement>();
watch(
    () => forecast.applied,
    () => note.value?.scrollIntoView({ block: 'nearest' }),
    { flush: 'post' },
);
</script>

<template>
    <div v-if="forecast.applied" ref="note" class="applied" role="status" data-testid="applied">
        <p class="heading">Done: {{ forecast.applied.title }}</p>
        <p v-for="d in forecast.applied.report.done" :key="d">{{ told(d) }}</p>
        <p v-for="l in forecast.applied.report.left" :key="l" class="left">{{ l }}</p>
        <v-btn
            v-if="fits.offered && fits.sides"
            class="mt-2"
            size="small"
            variant="outlined"
            :disabled="!!fasten.task"
            data-testid="offered-fit"
            @click="fits.check(true)"
            >Screw {{ fits.sides.external.partName }} into {{ fits.sides.internal.partName }}</v-btn
        >
        <FitResult v-if="fits.inNote" />
    </div>
</template>

<style scoped>
.applied {
    padding: 8px 10px;
    margin-bottom: 8px;
    border-left: 3px solid rgb(var(--v-theme-success));
    background: rgb(var(--v-theme-background));
    font-size: 13px;
}
.left {
    color: rgb(var(--v-theme-warning));
}
</style>
