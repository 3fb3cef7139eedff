<script setup lang="ts">
// What is held, as a draughtsman writes it: figures with their fine lines, rules in words when asked for, what is loose as arrows.
import { computed, nextTick, ref } from 'vue';
import type { Schemas } from '../api/client';
import { useBoard } from '../stores/board';
import { useHolding } from '../stores/holding';
import { usePen } from '../stores/pen';
import { figureText } from './draughts';

type Draught = Schemas['Draught'];
const props = defineProps<{
    on: (p: readonly number[]) => { x: number; y: number } | null;
    /** Where a place of the screen is on the board. */
    flat: (x: number, y: number) => readonly [number, number] | null;
}>();
const board = useBoard();
const pen = usePen();
const holding = useHolding();
/** A line of words is so high, pixels. */
const LINE = 14;
/** Arrows of what is loose are so long, pixels. */
const ARROW = 22;

const stroke = (points: readonly (readonly number[])[]) => {
    const all = points.map((p) => props.on(p));
    return all.some((p) => !p)
        ? ''
        : all.map((p, i) => `${i ? 'L' : 'M'}${p!.x.toFixed(1)} ${p!.y.toFixed(1)}`).join('');
};
const quarrels = computed(() => board.quarrel?.contenders.map((c) => c.name) ?? []);
/** Rules are shown when asked for, and for the line under the pointer or chosen. */
const near = (d: Draught) =>
    d.of.some((c) => {
        const line = c.split('.')[0]!;
        return board.chosen.includes(line) || (!pen.pen && pen.hand?.over === line);
    });
const shown = computed(() => {
    const boxes: { x: number; y: number; half: number }[] = [];
    /** Words that would lie on others stand below them. */
    const free = (x: number, y: number, half: number): number => {
        const hit = boxes.find((b) => Math.abs(b.x - x) < b.half + half && Math.abs(b.y - y) < LINE);
        if (hit) return free(x, hit.y + LINE, half);
        boxes.push({ x, y, half });
        return y;
    };
    const all = board.shown?.draughts ?? [];
    const wanted = (d: Draught) => board.rulesShown || near(d) || quarrels.value.includes(d.name);
    return [
        ...all.filter((d) => d.figure != null),
        ...all.filter((d) => d.figure == null && wanted(d)),
    ].flatMap((d) => {
        const on = props.on(d.at);
        if (!on) return [];
        const label = figureText(d);
        return {
            ...d,
            on: { x: on.x, y: free(on.x, on.y, label.length * 3.7) },
            lines: d.strokes.map(stroke),
            label,
            lit: board.chosen.includes(d.name) || quarrels.value.includes(d.name),
        };
    });
});
const ways = computed(() =>
    board.looseShown
        ? (board.view?.loose?.ways ?? []).flatMap((w) => {
              const at = props.on(w.at);
              if (!at) return [];
              const along = w.along
                  ? [w.along]
                  : [
                        [1, 0],
                        [0, 1],
                    ];
              return along.flatMap((way) => {
                  const to = props.on([w.at[0]! + way[0]!, w.at[1]! + way[1]!]);
                  const off = to && Math.hypot(to.x - at.x, to.y - at.y);
                  if (!to || !off) return [];
                  const by = [((to.x - at.x) / off) * ARROW, ((to.y - at.y) / off) * ARROW];
                  return [`M${at.x - by[0]!} ${at.y - by[1]!}L${at.x + by[0]!} ${at.y + by[1]!}`];
              });
          })
        : [],
);
const lit = computed(() => holding.things.filter((t) => holding.isPlace(t)));

/** The figure that is being written, and how. */
const open = ref<string | null>(null);
const text = ref('');
const field = ref<HTMLInputElement[]>([]);
const grip = ref<{
    name: string;
    from: readonly [number, number];
    aside: readonly number[];
    moved: boolean;
} | null>(null);
async function write(d: Draught) {
    board.choose(d.name);
    if (d.figure == null) return;
    open.value = d.name;
    text.value = `${Number(d.figure.toPrecision(9))}`;
    await nextTick();
    field.value[0]?.select();
}
async function written() {
    const [hold, value] = [open.value, Number(text.value.trim().replace(',', '.'))];
    const was = board.drawing.holds.find((h) => h.name === hold);
    open.value = null;
    if (!hold || !was || text.value.trim() === '' || !Number.isFinite(value)) return;
    await board.change({ figure: { hold, value } });
}
function press(event: PointerEvent, d: Draught) {
    const from = props.flat(event.clientX, event.clientY);
    const aside = board.drawing.holds.find((h) => h.name === d.name)?.aside ?? [0, 0];
    if (from) grip.value = { name: d.name, from, aside, moved: false };
    (event.target as Element).setPointerCapture(event.pointerId);
}
function move(event: PointerEvent) {
    if (grip.value && (Math.abs(event.movementX) > 2 || Math.abs(event.movementY) > 2))
        grip.value.moved = true;
}
async function release(event: PointerEvent, d: Draught) {
    const held = grip.value;
    grip.value = null;
    const to = props.flat(event.clientX, event.clientY);
    if (!held || !to) return;
    if (!held.moved) return write(d);
    const by: [number, number] = [
        held.aside[0]! + to[0] - held.from[0],
        held.aside[1]! + to[1] - held.from[1],
    ];
    await board.change({ aside: { hold: held.name, by } });
}
</script>

<template>
    <svg class="draughts" aria-hidden="true">
        <g v-for="d in shown" :key="d.name" :class="{ lit: d.lit }">
            <path v-for="(l, n) in d.lines" :key="n" class="fine" :d="l" />
            <text
                class="figure"
                :class="{
                    rule: d.figure == null,
                    live: !pen.pen && !pen.aim && (d.figure != null || board.rulesShown),
                }"
                :x="d.on.x"
                :y="d.on.y + 4"
                :data-testid="`draught-${d.name}`"
                @pointerdown.stop.prevent="press($event, d)"
                @pointermove.stop="move"
                @pointerup.stop="release($event, d)"
            >
                {{ d.label }}
            </text>
        </g>
        <path v-for="(w, n) in ways" :key="`way ${n}`" class="way" :d="w" data-testid="way" />
    </svg>
    <p v-if="lit.length" class="lit-things">{{ lit.join(' · ') }}</p>
    <form
        v-for="d in shown.filter((d) => d.name === open)"
        :key="`write ${d.name}`"
        class="write"
        :style="{ left: `${d.on.x - 34}px`, top: `${d.on.y - 13}px` }"
        @submit.prevent="written"
    >
        <input
            ref="field"
            v-model="text"
            :aria-label="`Figure ${d.name}, ${d.unit}`"
            data-testid="draught-field"
            @keydown.stop
            @keydown.escape="open = null"
            @blur="open = null"
        />
    </form>
</template>

<style scoped>
.draughts {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
    --ink: #4b5f7a;
}
.v-theme--night .draughts {
    --ink: #a9bedb;
}
.fine {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1;
}
.figure {
    text-anchor: middle;
    font:
        500 12px 'IBM Plex Mono',
        monospace;
    fill: var(--ink);
    paint-order: stroke;
    stroke: rgb(var(--v-theme-paper));
    stroke-width: 4px;
}
/* Words that come and go with the pointer, or stand where something is drawn, must not catch it. */
.figure.live {
    pointer-events: auto;
    cursor: pointer;
}
.figure.rule {
    font-style: italic;
}
.lit .fine {
    stroke: rgb(var(--v-theme-error));
}
.lit .figure {
    fill: rgb(var(--v-theme-error));
    font-weight: 700;
}
.way {
    fill: none;
    stroke: #b9821a;
    stroke-width: 2.5;
    stroke-linecap: round;
    stroke-dasharray: 10 24;
}
.lit-things {
    position: absolute;
    bottom: 8px;
    left: 50%;
    padding: 1px 8px;
    font-size: 12px;
    border-radius: 3px;
    background: rgb(var(--v-theme-surface));
    transform: translateX(-50%);
    pointer-events: none;
}
.write {
    position: absolute;
    z-index: 3;
}
.write input {
    width: 68px;
    padding: 2px 4px;
    font:
        600 12px 'IBM Plex Mono',
        monospace;
    color: inherit;
    text-align: center;
    border: 2px solid #b9821a;
    border-radius: 3px;
    background: rgb(var(--v-theme-surface));
}
</style>
