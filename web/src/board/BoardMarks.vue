<script setup lang="ts">
// What stands on the lines of a drawing: handles, free ends with the width of their gap, what lies double.
import { computed } from 'vue';
import { millimetres } from '../format';
import { useBoard } from '../stores/board';
import { usePen } from '../stores/pen';

const props = defineProps<{ on: (p: readonly number[]) => { x: number; y: number } | null }>();
const board = useBoard();
const pen = usePen();
/** More handles than these are shown of what is chosen only. */
const FEW = 120;
/** More marks than these say no more. */
const MOST = 200;

const handles = computed(() => {
    if (pen.pen || pen.aim) return [];
    const all = board.shown?.handles ?? [];
    return all
        .filter((h) => all.length <= FEW || board.chosen.includes(h.line))
        .map((h) => ({ ...h, on: props.on(h.at), chosen: board.chosen.includes(h.line) }))
        .filter((h) => h.on);
});
const ends = computed(() =>
    (board.view?.seen?.ends ?? []).slice(0, MOST).map((e, n) => ({
        key: n,
        on: props.on(e.at),
        text: e.nearest && e.nearest.end > n ? millimetres(e.nearest.apart) : '',
    })),
);
const doubles = computed(() => (board.view?.seen?.doubles ?? []).slice(0, MOST).map((d) => props.on(d.at)));
</script>

<template>
    <rect
        v-for="h in handles"
        :key="`${h.line} ${h.handle}`"
        class="handle"
        :class="{ chosen: h.chosen }"
        :x="h.on!.x - 3.5"
        :y="h.on!.y - 3.5"
        width="7"
        height="7"
        :data-testid="`handle-${h.line}-${h.handle.replaceAll(' ', '-')}`"
    />
    <g v-for="e in ends" :key="`end ${e.key}`">
        <template v-if="e.on">
            <circle class="end" :cx="e.on.x" :cy="e.on.y" r="6" />
            <circle class="end striped" :cx="e.on.x" :cy="e.on.y" r="6" />
            <text v-if="e.text" class="gap" :x="e.on.x + 10" :y="e.on.y - 8">{{ e.text }}</text>
        </template>
    </g>
    <template v-for="(d, n) in doubles" :key="`double ${n}`">
        <circle v-if="d" class="double" :cx="d.x" :cy="d.y" r="8" />
    </template>
</template>

<style scoped>
.handle {
    fill: rgb(var(--v-theme-paper));
    stroke: rgb(var(--v-theme-on-surface));
    stroke-opacity: 0.7;
}
.handle.chosen {
    fill: rgb(var(--v-theme-primary));
    stroke: rgb(var(--v-theme-paper));
}
.end {
    fill: none;
    stroke: #e0a72e;
    stroke-width: 4;
}
.end.striped {
    stroke: #1f2b33;
    stroke-dasharray: 3.2 3.2;
}
.gap {
    font:
        600 12px 'IBM Plex Mono',
        monospace;
    fill: rgb(var(--v-theme-on-surface));
    paint-order: stroke;
    stroke: rgb(var(--v-theme-paper));
    stroke-width: 3px;
}
.double {
    fill: none;
    stroke: rgb(var(--v-theme-error));
    stroke-width: 2;
}
</style>
