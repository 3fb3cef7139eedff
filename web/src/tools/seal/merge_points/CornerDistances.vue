<script setup lang="ts">
// How far corners on naked edges are from their nearest counterparts, beside the lengths of edges; click to choose a distance.
import { computed } from 'vue';
import { figure, millimetres, whole } from '../../../format';
import { useBench } from '../../../stores/bench';

const props = defineProps<{ within: number }>();
const emit = defineEmits<{ within: [value: number] }>();
const bench = useBench();
const told = computed(() => bench.examination?.corners ?? null);

const WIDTH = 296;
const HEIGHT = 72;

const range = computed(() => {
    const bins = told.value?.bins ?? [];
    const ends = [bins[0]?.from ?? props.within, bins.at(-1)?.to ?? props.within, props.within];
    return [Math.min(...ends) / 1.4, Math.max(...ends) * 1.4] as const;
});
const across = (distance: number) => {
    const [from, to] = range.value;
    return (Math.log(distance / from) / Math.log(to / from)) * WIDTH;
};
/** Corners stand up from the axis, edges hang below it. */
const bars = computed(() => {
    const bins = told.value?.bins ?? [];
    const most = (of: (b: (typeof bins)[number]) => number) => Math.max(1, ...bins.map(of));
    const [corners, edges] = [most((b) => b.corners), most((b) => b.edges)];
    return bins.map((b) => ({
        x: across(b.from) + 1,
        width: Math.max(1, across(b.to) - across(b.from) - 2),
        up: (Math.sqrt(b.corners / corners) * HEIGHT) / 2,
        down: (Math.sqrt(b.edges / edges) * HEIGHT) / 2,
    }));
});
const ticks = computed(() => {
    const [from, to] = range.value;
    const list: number[] = [];
    for (let t = 10 ** Math.ceil(Math.log10(from)); t <= to; t *= 10) list.push(t);
    return list.filter((_, i) => i % Math.ceil(list.length / 6) === 0);
});
function pick(event: MouseEvent) {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const [from, to] = range.value;
    emit('within', Number((from * (to / from) ** ((event.clientX - box.left) / box.width)).toPrecision(2)));
}
</script>

<template>
    <div v-if="told" class="distances">
        <p class="small-caps">Corners by distance (up), edges by length (down)</p>
        <svg
            :viewBox="`0 0 ${WIDTH} ${HEIGHT + 16}`"
            role="img"
            :aria-label="`${told.corners} corners on naked edges; the shortest edge has ${millimetres(told.shortest_edge)}`"
            data-testid="corner-distances"
            @click="pick"
        >
            <title>Click to choose a distance</title>
            <g v-for="b in bars" :key="b.x">
                <rect class="corners" :x="b.x" :width="b.width" :y="HEIGHT / 2 - b.up" :height="b.up" />
                <rect class="edges" :x="b.x" :width="b.width" :y="HEIGHT / 2" :height="b.down" />
            </g>
            <line class="axis" x1="0" :x2="WIDTH" :y1="HEIGHT / 2" :y2="HEIGHT / 2" />
            <text v-for="t in ticks" :key="t" :x="across(t)" :y="HEIGHT + 12" text-anchor="middle">
                {{ figure(t) }}
            </text>
            <line class="within" :x1="across(within)" :x2="across(within)" y1="0" :y2="HEIGHT" />
            <text :x="WIDTH" y="10" text-anchor="end">mm</text>
        </svg>
        <p class="soft">
            {{ whole(told.corners) }} corners on naked edges, the shortest edge
            {{ millimetres(told.shortest_edge) }}.
            <template v-if="told.suggested">
                Between them lies an empty band:
                <button class="link" data-testid="suggested" @click="emit('within', told.suggested!)">
                    {{ millimetres(told.suggested) }}
                </button>
                is clear of both.
            </template>
            <template v-else>There is no empty band between them: look before merging.</template>
        </p>
    </div>
</template>

<style scoped>
.distances {
    margin-top: 8px;
    font-size: 13px;
}
svg {
    display: block;
    width: 100%;
    cursor: ew-resize;
}
.corners {
    fill: rgb(var(--v-theme-primary));
}
.edges {
    fill: rgb(var(--v-theme-on-surface));
    fill-opacity: 0.35;
}
.axis {
    stroke: rgb(var(--v-theme-on-surface));
    stroke-opacity: 0.5;
}
.within {
    stroke: rgb(var(--v-theme-error));
    stroke-width: 2;
}
text {
    font-family: 'IBM Plex Mono', monospace;
    font-size: 10px;
    fill: currentColor;
}
.link {
    color: rgb(var(--v-theme-primary));
    text-decoration: underline;
    font: inherit;
    border: 0;
    background: none;
    cursor: pointer;
}
</style>
