<script setup lang="ts">
// What lines are drawn with: picture, word and key of each pen, and what its clicks are.
import { computed } from 'vue';
import { usePen } from '../stores/pen';
import { aims, pens } from './pens';

const pen = usePen();
const hint = computed(
    () =>
        pens.find((p) => p.pen === pen.pen)?.hint ??
        aims.find((a) => a.aim === pen.aim)?.hint ??
        'Take a pen, or click a line; its handles can be dragged. Alt draws without catching.',
);
</script>

<template>
    <div class="pens" role="group" aria-label="Pens">
        <button
            v-for="p in pens"
            :key="p.pen"
            type="button"
            :aria-pressed="pen.pen === p.pen"
            :title="`${p.name} (key ${p.key})`"
            :data-testid="`pen-${p.pen}`"
            @click="pen.take(pen.pen === p.pen ? null : p.pen)"
        >
            <svg viewBox="0 0 24 24" aria-hidden="true"><path :d="p.picture" /></svg>
            <span>{{ p.name }}</span>
            <kbd>{{ p.key }}</kbd>
        </button>
    </div>
    <p class="soft hint">{{ hint }}</p>
</template>

<style scoped>
.pens {
    display: grid;
    grid-template-columns: repeat(3, 1fr);
    gap: 4px;
    margin-top: 8px;
}
button {
    display: flex;
    align-items: center;
    gap: 5px;
    padding: 3px 6px;
    font-size: 13px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 3px;
    cursor: pointer;
}
button:hover {
    background: rgb(var(--v-theme-background));
}
button[aria-pressed='true'] {
    border-color: rgb(var(--v-theme-primary));
    box-shadow: inset 0 0 0 1px rgb(var(--v-theme-primary));
}
svg {
    flex: none;
    width: 20px;
    height: 20px;
}
path {
    fill: none;
    stroke: currentcolor;
    stroke-width: 1.8;
}
kbd {
    margin-left: auto;
    padding: 0;
    font-size: 11px;
    border: none;
    opacity: 0.65;
}
.hint {
    margin-top: 4px;
    min-height: 34px;
    font-size: 12px;
    line-height: 1.35;
}
</style>
