<script setup lang="ts">
// Sections on and off, and the place of the active one.
import { mdiContentCut } from '@mdi/js';
import { computed } from 'vue';
import { millimetres } from '../format';
import { axisOf, offsetOf } from '../planes';
import { useBench } from '../stores/bench';
import { useSections } from '../stores/sections';

const bench = useBench();
const sections = useSections();
const shown = computed(() => (sections.shown?.on ? sections.shown : null));
const axis = computed(() => (shown.value ? axisOf(shown.value.plane.normal) : null));
/** How far the plane may go: the part along its normal. */
const range = computed(() => {
    const [f, s] = [bench.part?.figures, shown.value];
    if (!f || !s) return { least: 0, most: 1, at: 0 };
    const long = Math.hypot(...s.plane.normal);
    const n = s.plane.normal.map((x) => x / long);
    const middle = f.least.reduce((sum, x, i) => sum + (x + f.size[i]! / 2) * n[i]!, 0);
    const half = f.size.reduce((sum, x, i) => sum + (x / 2) * Math.abs(n[i]!), 0);
    return {
        least: middle - half,
        most: middle + half,
        at: s.plane.at.reduce((sum, x, i) => sum + x * n[i]!, 0),
    };
});
</script>

<template>
    <div class="section">
        <button
            type="button"
            :aria-pressed="sections.on.length > 0"
            title="Sections on or off (c)"
            data-testid="section"
            @click="sections.toggle()"
        >
            <v-icon :icon="mdiContentCut" size="16" /> {{ shown?.name ?? 'Section' }}
        </button>
        <template v-if="shown">
            <input
                :value="range.at"
                type="range"
                :min="range.least"
                :max="range.most"
                :step="(range.most - range.least) / 400"
                aria-label="Place of the section"
                @input="sections.move(Number(($event.target as HTMLInputElement).value) - range.at)"
            />
            <span class="figure"
                >{{ axis === null ? 'at' : `${'xyz'[axis]} =` }}
                {{ millimetres(offsetOf(shown.plane)) }}</span
            >
            <b v-if="sections.under != null" class="figure" data-testid="cut-wall"
                >wall here {{ millimetres(sections.under) }}</b
            >
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
