<script setup lang="ts">
// The parameters of the considered step.
import { computed } from 'vue';
import { useForecast } from '../stores/forecast';
import CostLine from './fields/CostLine.vue';
import StepFields from './fields/StepFields.vue';
import { ownFields } from './own';

const forecast = useForecast();
const own = computed(() => (forecast.draft ? ownFields(forecast.draft) : undefined));
</script>

<template>
    <template v-if="forecast.draft">
        <component :is="own" v-if="own" :action="forecast.draft" />
        <StepFields v-else />
        <CostLine />
    </template>
</template>
