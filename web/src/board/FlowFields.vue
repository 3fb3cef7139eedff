<script setup lang="ts">
// How a piece between two ends flows: how far each end pulls, and whether it goes on in curvature.
import { usePen } from '../stores/pen';
import CheckRow from '../tools/fields/CheckRow.vue';

const pen = usePen();
const name = ['first', 'second'];
</script>

<template>
    <div class="flow">
        <label v-for="(_, k) in pen.flow.pull" :key="k">
            Pull of the {{ name[k] }} end
            <input
                v-model.number="pen.flow.pull[k]"
                type="range"
                min="0.2"
                max="3"
                step="0.05"
                :data-testid="`flow-pull-${k}`"
            />
            <span class="figure">{{ pen.flow.pull[k]!.toFixed(2) }}</span>
        </label>
        <CheckRow label="Even in curvature" :value="pen.flow.even" @change="pen.flow.even = $event" />
    </div>
</template>

<style scoped>
.flow {
    margin-top: 4px;
    padding: 4px 8px 8px;
    font-size: 13px;
    border-left: 2px solid rgb(var(--v-theme-rule));
}
label {
    display: grid;
    grid-template-columns: 1fr 100px 36px;
    align-items: center;
    gap: 6px;
}
</style>
