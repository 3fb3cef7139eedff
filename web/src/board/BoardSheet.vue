<script setup lang="ts">
// The paper over the parts with all that is drawn on it: ruling, regions, lines, handles, what is wrong, what the hand draws.
import { computed } from 'vue';
import { useBoard } from '../stores/board';
import { usePen } from '../stores/pen';
import { useForesight } from '../stores/foresight';
import { useHolding } from '../stores/holding';
import { useProfiles } from '../stores/profiles';
import type { Bench } from '../viewport/bench';
import BoardDraughts from './BoardDraughts.vue';
import BoardMarks from './BoardMarks.vue';
import BoardSlip from './BoardSlip.vue';
import { lifted, paperOf, roundLength, rulings, type BoardView, type Flat } from './plane';

const props = defineProps<{
    view: Bench | null;
    drawn: number;
    partOn: (f: BoardView) => Flat[];
    /** Where a place of the window is on the board. */
    flat: (x: number, y: number) => Flat | null;
}>();
const board = useBoard();
const pen = usePen();
const holding = useHolding();
const foresight = useForesight();
const profiles = useProfiles();
const f = computed(() => (board.on ? board.shown : profiles.picking ? profiles.view : null));

/** Where places of the board are on the screen, as it was drawn last. */
const on = computed(() => {
    void props.drawn;
    const [target, frame] = [props.view, f.value];
    return (p: readonly number[]) => (target && frame ? target.onScreen(lifted(frame, p)) : null);
});
function path(points: readonly (readonly number[])[], closed = false): string {
    const all = points.map((p) => on.value(p));
    if (all.some((p) => !p)) return '';
    return (
        all.map((p, i) => `${i ? 'L' : 'M'}${p!.x.toFixed(1)} ${p!.y.toFixed(1)}`).join('') +
        (closed ? 'Z' : '')
    );
}
const places = computed(() => f.value?.curves.flatMap((c) => c.points as unknown as Flat[]) ?? []);
const paper = computed(() => {
    const frame = f.value;
    if (!frame) return null;
    const { least, most } = paperOf([...places.value, ...props.partOn(frame)]);
    const corners: Flat[] = [least, [most[0], least[1]], most, [least[0], most[1]]];
    const middle = lifted(frame, [(least[0] + most[0]) / 2, (least[1] + most[1]) / 2]);
    void props.drawn;
    const px = props.view?.pixels(middle, 1) || 1;
    const fine = roundLength(7 / px);
    const coarse = fine * 10;
    const lines = (step: number) =>
        [0, 1]
            .flatMap((k) =>
                rulings(least[k]!, most[k]!, step).map((x) =>
                    path(
                        k
                            ? [
                                  [least[0], x],
                                  [most[0], x],
                              ]
                            : [
                                  [x, least[1]],
                                  [x, most[1]],
                              ],
                    ),
                ),
            )
            .join('');
    const figures = [0, 1].flatMap((k) =>
        rulings(least[k]!, most[k]!, coarse, 60).map((x) => ({
            key: `${k} ${x}`,
            text: `${x}`,
            at: on.value(k ? [least[0], x] : [x, least[1]]),
            side: k,
        })),
    );
    return { outline: path(corners, true), fine: lines(fine), coarse: lines(coarse), figures, corners };
});
const curves = computed(() => f.value?.curves.map((c) => ({ ...c, d: path(c.points) })) ?? []);
const regions = computed(
    () =>
        f.value?.regions.map((outlines, n) => ({
            d: outlines.map((o) => path(o, true)).join(''),
            picked: profiles.picking && profiles.taken.includes(n),
            aimed: profiles.picking && profiles.aimed === n,
            chosen: profiles.picking && profiles.chosen === n && profiles.heights.length > 0,
            shade: profiles.picking && profiles.heights.length ? (profiles.shade(n) ?? 0) : null,
            height: profiles.picking ? profiles.heights[n] : undefined,
            area: f.value?.seen?.regions[n]?.area ?? 0,
            at: on.value(f.value?.seen?.regions[n]?.at ?? [0, 0]),
        })) ?? [],
);
const hand = computed(() => (board.on ? pen.hand : null));
const pointer = computed(() =>
    hand.value && (pen.pen || pen.aim || board.held) ? on.value(hand.value.at) : null,
);
const zero = computed(() => on.value([0, 0]));
const ten = computed(() => [on.value([10, 0]), on.value([0, 10])]);
const spot = (p: { x: number; y: number } | null | undefined) =>
    p ? `${p.x.toFixed(2)},${p.y.toFixed(2)}` : '';
</script>

<template>
    <svg
        v-if="f && paper"
        class="board"
        aria-hidden="true"
        data-testid="board"
        :data-zero="spot(zero)"
        :data-right="spot(ten[0])"
        :data-up="spot(ten[1])"
    >
        <!-- A body grows out of the paper: then only its outline is there. -->
        <path class="paper" :class="{ thin: !board.on }" :d="paper.outline" />
        <template v-if="board.on">
            <path class="rule fine" :d="paper.fine" />
            <path class="rule" :d="paper.coarse" />
        </template>
        <template v-for="g in paper.figures" :key="g.key">
            <text
                v-if="g.at"
                class="scale"
                :x="g.at.x + (g.side ? -5 : 0)"
                :y="g.at.y + (g.side ? 4 : 14)"
                :text-anchor="g.side ? 'end' : 'middle'"
            >
                {{ g.text }}
            </text>
        </template>
        <path
            v-for="(r, n) in regions"
            :key="`region ${n}`"
            class="region"
            :class="{ picked: r.picked, aimed: r.aimed, chosen: r.chosen }"
            :style="r.shade === null || r.aimed ? undefined : { fillOpacity: 0.06 + 0.5 * r.shade }"
            fill-rule="evenodd"
            :d="r.d"
            :data-testid="`region-${n}`"
        />
        <path v-if="zero" class="zero" :d="`M${zero.x - 7} ${zero.y}h14M${zero.x} ${zero.y - 7}v14`" />
        <path
            v-for="c in curves"
            :key="c.name"
            class="line"
            :class="{
                chosen: board.chosen.includes(c.line) || holding.things.includes(c.name),
                over: !pen.pen && (holding.on ? hand?.over_curve === c.name : hand?.over === c.line),
            }"
            :d="c.d"
            :data-testid="`curve-${c.name}`"
        />
        <path v-for="(c, n) in foresight.going" :key="`going ${n}`" class="line going" :d="path(c.points)" />
        <path v-for="(c, n) in foresight.coming" :key="`coming ${n}`" class="line new" :d="path(c.points)" />
        <BoardMarks v-if="board.on" :on="on" />
        <path v-for="(c, n) in hand?.curves ?? []" :key="`new ${n}`" class="line new" :d="path(c)" />
        <circle
            v-if="pointer"
            class="pointer"
            :class="{ caught: hand?.caught }"
            :cx="pointer.x"
            :cy="pointer.y"
            :r="hand?.caught ? 6 : 3"
        />
        <text
            v-for="(r, n) in regions.filter((r) => r.aimed && r.at)"
            :key="`area ${n}`"
            class="area"
            :x="r.at!.x"
            :y="r.at!.y"
        >
            {{ Number(r.area.toPrecision(4)) }} mm²
        </text>
        <text
            v-for="(r, n) in regions.filter((r) => !r.aimed && r.at && r.height !== undefined)"
            :key="`height ${n}`"
            class="area"
            :x="r.at!.x"
            :y="r.at!.y"
        >
            {{ r.height }} mm
        </text>
    </svg>
    <BoardDraughts v-if="board.on && f" :on="on" :flat="flat" />
    <BoardSlip v-if="board.on && pointer" :x="pointer.x" :y="pointer.y" />
</template>

<style scoped>
.board {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
    --ink: rgb(var(--v-theme-on-surface));
}
.paper {
    fill: rgb(var(--v-theme-paper));
    fill-opacity: 0.86;
    stroke: var(--ink);
    stroke-opacity: 0.35;
}
.paper.thin {
    fill-opacity: 0.25;
}
.rule {
    fill: none;
    stroke: var(--ink);
    stroke-opacity: 0.14;
    stroke-width: 1;
}
.rule.fine {
    stroke-opacity: 0.06;
}
.scale {
    font:
        500 10px 'IBM Plex Mono',
        monospace;
    fill: var(--ink);
    fill-opacity: 0.7;
}
.zero {
    fill: none;
    stroke: var(--ink);
    stroke-opacity: 0.6;
}
.region {
    fill: rgb(var(--v-theme-primary));
    fill-opacity: 0.07;
}
.region.picked {
    fill-opacity: 0.34;
}
.region.aimed {
    fill-opacity: 0.5;
}
.region.chosen {
    stroke: rgb(var(--v-theme-primary));
    stroke-width: 3;
}
.line {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.8;
    stroke-linejoin: round;
    stroke-linecap: round;
}
.line.over,
.line.chosen {
    stroke: rgb(var(--v-theme-primary));
    stroke-width: 3;
}
.line.going {
    stroke: rgb(var(--v-theme-error));
    stroke-width: 3;
    stroke-dasharray: 3 4;
}
.line.new {
    stroke: #b9821a;
    stroke-width: 2.4;
}
/* Over lines. */
.area {
    text-anchor: middle;
    font:
        600 12px 'IBM Plex Mono',
        monospace;
    fill: var(--ink);
    paint-order: stroke;
    stroke: rgb(var(--v-theme-paper));
    stroke-width: 3px;
}
.pointer {
    fill: #b9821a;
    stroke: none;
}
.pointer.caught {
    fill: none;
    stroke: #b9821a;
    stroke-width: 2;
}
</style>
