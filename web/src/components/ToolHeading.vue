<script setup lang="ts">
// What the open tool is called, and the way to its page of the manual.
import { mdiHelpCircleOutline } from '@mdi/js';
import { computed } from 'vue';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import { useTools } from '../stores/tools';

const bench = useBench();
const forecast = useForecast();
const tools = useTools();
const tool = computed(() => (forecast.draft ? tools.of(forecast.draft) : undefined));
</script>

<template>
    <div class="d-flex align-center">
        <p class="heading flex-grow-1">{{ forecast.title }}</p>
        <v-btn
            v-if="tool"
            :icon="mdiHelpCircleOutline"
            size="x-small"
            variant="text"
            :aria-label="`What ${tool.name} does`"
            :title="`What ${tool.name} does`"
            data-testid="help"
            @click="bench.showHelp(tool.key)"
        />
    </div>
</template>
