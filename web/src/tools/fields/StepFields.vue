<script setup lang="ts">
// The parameters of the considered step, those seldom changed folded away.
import { computed } from 'vue';
import { useForecast } from '../../stores/forecast';
import { useTools } from '../../stores/tools';
import { counts, fieldsOf } from './describe';
import PickLine from './PickLine.vue';
import StepField from './StepField.vue';

const props = defineProps<{
    /** Parameters the tool's own fields draw. */
    but?: readonly string[];
    /** Whether those tell what is picked, too. */
    picked?: boolean;
}>();
const forecast = useForecast();
const tools = useTools();
const shown = computed(() =>
    fieldsOf(forecast.draft ? tools.described(forecast.draft) : undefined).filter(
        (f) => !props.but?.includes(f.name) && counts(f, forecast.draft),
    ),
);
const plain = computed(() => shown.value.filter((f) => !f.described.folded));
const folded = computed(() => shown.value.filter((f) => f.described.folded));
</script>

<template>
    <StepField v-for="f in plain" :key="f.name" :field="f" />
    <PickLine v-if="!picked" />
    <details v-if="folded.length" class="more">
        <summary data-testid="more">More</summary>
        <StepField v-for="f in folded" :key="f.name" :field="f" />
    </details>
</template>

<style scoped>
.more {
    margin-top: 8px;
}
.more summary {
    cursor: pointer;
    font-size: 13px;
}
</style>
