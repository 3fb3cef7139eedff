<script setup lang="ts">
import { computed } from 'vue';
import type { Schemas } from '../../../api/client';
import { figure, millimetres } from '../../../format';
import { useBench } from '../../../stores/bench';

type Gap = Schemas['GapFacts'];
type GapPick = Schemas['GapPick'];

const props = defineProps<{ reach: number; leave: readonly GapPick[] }>();
const emit = defineEmits<{ reach: [value: number]; leave: [picks: GapPick[]] }>();
const bench = useBench();
const gaps = computed<readonly Gap[]>(() => bench.examination?.gaps ?? []);

const WIDTH = 296;
const HEIGHT = 64;
const BINS = 24;
/** Rows beyond this are summed up: nobody reads on. */
const MOST_ROWS = 200;

const isLeft = (g: Gap) => props.leave.some((p) => p.length === g.pick.length && same(p.near, g.pick.near));
const same = (a: readonly number[], b: readonly number[]) => a.every((x, i) => x === b[i]);
const closes = (g: Gap) => !isLeft(g) && g.width_most <= props.reach;

/** Widths from the narrowest to the widest gap or the reach, on a scale of equal ratios. */
const range = computed(() => {
    const widths = [...gaps.value.map((g) => g.width_most), props.reach];
    return [Math.min(...widths) / 1.6, Math.max(...widths) * 1.6] as const;
});
const across = (width: number) => {
    const [from, to] = range.value;
    return (Math.log(width / from) / Math.log(to / from)) * WIDTH;
};
const bars = computed(() => {
    const bins = Array.from({ length: BINS }, () => ({ closed: 0, open: 0 }));
    for (const g of gaps.value) {
        const bin = bins[Math.min(BINS - 1, Math.max(0, Math.floor((across(g.width_most) / WIDTH) * BINS)))]!;
        bin[closes(g) ? 'closed' : 'open'] += g.length;
    }
    const most = Math.max(...bins.map((b) => b.closed + b.open), 1e-9);
    const high = (length: number) => (length / most) * (HEIGHT - 4);
    return bins.map((b, i) => ({
        x: (i * WIDTH) / BINS,
        closed: high(b.closed),
        open: high(b.open),
    }));
});
const ticks = computed(() => {
    const [from, to] = range.value;
    const list: number[] = [];
    for (let digit = 10 ** Math.floor(Math.log10(from)); digit <= to; digit *= 10)
        for (const m of [1, 2, 5]) if (m * digit >= from && m * digit <= to) list.push(m * digit);
    return list.length > 7 ? list.filter((t) => /^1/.test(t.toExponential())) : list;
});

/** Two digits are as fine as a reach is chosen by sight. */
function pickReach(event: MouseEvent) {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const [from, to] = range.value;
    const width = from * (to / from) ** ((event.clientX - box.left) / box.width);
    emit('reach', Number(width.toPrecision(2)));
}
function toggle(g: Gap) {
    emit(
        'leave',
        isLeft(g) ? props.leave.filter((p) => !same(p.near, g.pick.near)) : [...props.leave, g.pick],
    );
}
</script>

<template>
    <div v-if="gaps.length" class="widths">
        <p class="small-caps">Length of gaps by width</p>
        <svg
            :viewBox="`0 0 ${WIDTH} ${HEIGHT + 16}`"
            role="img"
            :aria-label="`${gaps.filter(closes).length} of ${gaps.length} gaps are within the reach`"
            data-testid="gap-widths"
            @click="pickReach"
        >
            <title>Click to choose a reach</title>
            <g v-for="b in bars" :key="b.x">
                <rect
                    class="closed"
                    :x="b.x + 1"
                    :width="WIDTH / BINS - 2"
                    :y="HEIGHT - b.closed"
                    :height="b.closed"
                />
                <rect
                    class="open"
                    :x="b.x + 1"
                    :width="WIDTH / BINS - 2"
                    :y="HEIGHT - b.closed - b.open"
                    :height="b.open"
                />
            </g>
            <line class="axis" x1="0" :x2="WIDTH" :y1="HEIGHT" :y2="HEIGHT" />
            <text v-for="t in ticks" :key="t" :x="across(t)" :y="HEIGHT + 12" text-anchor="middle">
                {{ figure(t) }}
            </text>
            <line class="reach" :x1="across(reach)" :x2="across(reach)" y1="0" :y2="HEIGHT" />
            <text class="unit" :x="WIDTH" y="10" text-anchor="end">mm</text>
        </svg>
        <p class="row head small-caps" aria-hidden="true">
            <span /><span>Gap</span><span>Width</span><span>Length</span><span class="state">Outcome</span>
        </p>
        <ul aria-label="Gaps">
            <li v-for="g in gaps.slice(0, MOST_ROWS)" :key="g.name" :class="{ out: !closes(g) }">
                <label class="row">
                    <input
                        type="checkbox"
                        :checked="!isLeft(g)"
                        :data-testid="`gap-${g.name}`"
                        @change="toggle(g)"
                    />
                    <span>{{ g.name }}</span>
                    <span class="figure">{{ millimetres(g.width_most) }}</span>
                    <span class="figure">{{ millimetres(g.length) }}</span>
                    <span class="state">{{
                        isLeft(g) ? 'left open' : closes(g) ? 'closes' : 'too wide'
                    }}</span>
                </label>
            </li>
        </ul>
        <p v-if="gaps.length > MOST_ROWS" class="soft">and {{ gaps.length - MOST_ROWS }} more</p>
    </div>
</template>

<style scoped>
.widths {
    margin-top: 8px;
}
svg {
    display: block;
    width: 100%;
    cursor: ew-resize;
}
.closed {
    fill: rgb(var(--v-theme-primary));
}
.open {
    fill: none;
    stroke: rgb(var(--v-theme-on-surface));
    stroke-opacity: 0.6;
}
.axis {
    stroke: rgb(var(--v-theme-on-surface));
    stroke-opacity: 0.5;
}
.reach {
    stroke: rgb(var(--v-theme-error));
    stroke-width: 2;
}
text {
    font-family: 'IBM Plex Mono', monospace;
    font-size: 10px;
    fill: currentColor;
}
ul {
    list-style: none;
    max-height: 132px;
    overflow-y: auto;
}
.row {
    display: grid;
    grid-template-columns: 20px 36px 74px 74px 1fr;
    align-items: center;
    padding: 2px 0;
    white-space: nowrap;
}
.head {
    font-size: 11px;
    border-bottom: 1px solid rgb(var(--v-theme-rule));
}
label {
    cursor: pointer;
}
input {
    accent-color: rgb(var(--v-theme-primary));
}
.out {
    opacity: 0.75;
}
.state {
    font-size: 12px;
    text-align: right;
}
</style>
