<script setup lang="ts">
import { mdiContentCut } from '@mdi/js';
import { computed } from 'vue';
import { millimetres } from '../format';
import { useBench } from '../stores/bench';

const bench = useBench();
const at = computed({
    get: () => bench.section.at,
    set: (value: number) => (bench.section = { on: true, at: value }),
});
const place = computed(() => {
    const f = bench.part?.figures;
    return f ? `x = ${millimetres(f.least[0]! + f.size[0]! * bench.section.at)}` : '';
});
</script>

<template>
    <div class="section">
        <button
            type="button"
            :aria-pressed="bench.section.on"
            title="Section on or off (c)"
            data-testid="section"
            @click="bench.section = { ...bench.section, on: !bench.section.on }"
        >
            <v-icon :icon="mdiContentCut" size="16" /> Section
        </button>
        <template v-if="bench.section.on">
            <input
                v-model.number="at"
                type="range"
                min="0"
                max="1"
                step="0.005"
                aria-label="Place of the section"
            />
            <span class="figure">{{ place }}</span>
        </template>
    </div>
</template>

<style scoped>
.section {
    display: flex;
    align-items: center;
    gap: 8px;
    padding-right: 8px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    background: rgb(var(--v-theme-surface));
    font-size: 13px;
}
button {
    padding: 4px 8px;
    cursor: pointer;
}
button[aria-pressed='true'] {
    color: rgb(var(--v-theme-primary));
    font-weight: 600;
}
input {
    accent-color: rgb(var(--v-theme-primary));
}
</style>
