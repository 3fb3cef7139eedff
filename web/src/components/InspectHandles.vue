<script setup lang="ts">
// What is drawn over the parts to be read, and its handles: sections, the level of a liquid, measures, the centre of mass.
import { computed, onUnmounted, ref, watch } from 'vue';
import * as f from '../format';
import type { Xyz } from '../rimRuns';
import { useBench } from '../stores/bench';
import { useCapacity } from '../stores/capacity';
import { useCourse } from '../stores/course';
import { useFasten } from '../stores/fasten';
import { useForecast } from '../stores/forecast';
import { useMeasures } from '../stores/measures';
import { useSections } from '../stores/sections';
import { useWeights } from '../stores/weights';
import type { Bench } from '../viewport/bench';
import type { Cap } from '../viewport/overlay';
import AxisHandle from '../tools/handles/AxisHandle.vue';

const props = defineProps<{ view: Bench | null; drawn: number }>();
const bench = useBench();
const sections = useSections();
const capacity = useCapacity();
const measures = useMeasures();
const weights = useWeights();
const forecast = useForecast();
const fasten = useFasten();
const course = useCourse();

/** Fillings told apart by tint and by the way of their hatching. */
const tints = ['#C9CED1', '#D8C9A8', '#B9CFC8', '#D5BFC0', '#C4C7DB'];
const caps = computed<Cap[]>(() =>
    sections.on.flatMap((s, section) =>
        bench.shownParts.flatMap((p, n) => {
            const cut = forecast.ready ? null : sections.cutOf(p.mesh, s);
            if (!cut) return [];
            return [
                {
                    contours: cut.contours,
                    origin: cut.origin as Xyz,
                    u: cut.u as Xyz,
                    v: cut.v as Xyz,
                    colour: tints[n % tints.length]!,
                    turn: n * 0.9,
                    section,
                },
            ];
        }),
    ),
);
const filled = computed(() =>
    bench.station === 'weigh' && capacity.here && !forecast.ready ? capacity.got : null,
);
const weighing = computed(() => bench.station === 'weigh' && !forecast.draft);
/** The axes of inertia through the centre of mass. */
const axes = computed(() => {
    const [w, size] = [weights.seen?.weighing, bench.part?.figures.size];
    // They clutter what is filled, and mean nothing before there is a mass.
    const told = bench.part?.mass != null && !filled.value;
    if (!weighing.value || !told || !w?.centre || !size || !weights.principal) return [];
    const half = Math.hypot(...size) * 0.16;
    const colours = ['#B8243C', '#3F8F82', '#2F6690'];
    return weights.principal.map(({ way }, i) => ({
        points: [-1, 1].map((s) => w.centre!.map((x, k) => x + way[k]! * half * s) as Xyz),
        colour: colours[i]!,
    }));
});
const lines = computed(() => (weighing.value ? measures.lines : []));

watch(
    [
        () => props.view,
        caps,
        filled,
        lines,
        axes,
        () => course.lines,
        () => fasten.markings,
        () => sections.on.map((s) => s.plane),
    ],
    () =>
        props.view?.setOverlay(
            {
                caps: caps.value,
                lid: filled.value?.outlines.length
                    ? { outlines: filled.value.outlines as Xyz[][], up: capacity.up }
                    : null,
                lines: [
                    ...lines.value.map((l) => ({ points: l.got.line as Xyz[], colour: '#A8761F' })),
                    ...axes.value,
                    ...course.lines,
                ],
                marks: fasten.markings.map((points) => ({ points, colour: '#8A5A12' })),
            },
            sections.on.map((s) => ({ at: s.plane.at as Xyz, normal: s.plane.normal as Xyz })),
        ),
);

/** A place on the screen for what is said of a measure: the middle of its line. */
const labels = computed(() => {
    void props.drawn;
    return lines.value.flatMap(({ name, got }) => {
        const points = got.line as Xyz[];
        const [a, b] = [points[0], points[points.length - 1]];
        if (!a || !b) return [];
        const on = props.view?.onScreen(a.map((x, i) => (x + b[i]!) / 2) as Xyz);
        const value = got.angle
            ? `${f.figure(got.value)}°`
            : got.text.includes('mm²')
              ? f.area(got.value)
              : f.millimetres(got.value);
        return on ? [{ key: name || 'last', text: name ? `${name} ${value}` : value, ...on }] : [];
    });
});

/** The level's handle stands over the middle of the liquid's surface. */
const level = computed(() => {
    const c = filled.value;
    if (!c) return null;
    const points = c.outlines.flat();
    if (!points.length) {
        const at = capacity.vessel!.at;
        return at;
    }
    const low = [0, 1, 2].map((i) => Math.min(...points.map((p) => p[i]!)));
    const high = [0, 1, 2].map((i) => Math.max(...points.map((p) => p[i]!)));
    return low.map((x, i) => (x + high[i]!) / 2) as Xyz;
});
/** Where the handle was taken up: it stays the handle's place while the liquid follows. */
const taken = ref<{ depth: number; at: Xyz } | null>(null);
const within = (depth: number) => Math.max(0, Math.min(depth, capacity.got?.spill.depth ?? depth));
function drag(moved: number | null) {
    const [c, at] = [capacity.got, level.value];
    if (moved === null || !c || !at) return;
    taken.value ??= { depth: c.depth, at };
    capacity.to = { depth: within(taken.value.depth + moved) };
}
function drop(by: number) {
    if (taken.value) capacity.to = { depth: Number(within(taken.value.depth + by).toFixed(2)) };
    taken.value = null;
}

function hover(event: PointerEvent) {
    const view = props.view;
    if (!view || event.buttons || !sections.on.length) return (sections.under = null);
    const box = view.host.getBoundingClientRect();
    const place = [event.clientX - box.left, event.clientY - box.top] as const;
    const s = sections.shown?.on ? sections.shown : sections.on[0]!;
    const at = view.probe.onPlane(...place, s.plane.at as Xyz, s.plane.normal as Xyz);
    const cut = at && bench.part ? sections.cutOf(bench.part.mesh, s) : null;
    return (sections.under = cut && at && inMaterial(cut, at) ? sections.wallAt(cut, at) : null);
}
/** Whether a place of the plane lies in the material: within an odd number of outlines. */
function inMaterial(cut: NonNullable<ReturnType<typeof sections.cutOf>>, at: Xyz): boolean {
    const from = at.map((x, i) => x - cut.origin[i]!);
    const [x, y] = [cut.u, cut.v].map((w) => from.reduce((s, d, i) => s + d * w[i]!, 0)) as [number, number];
    let within = false;
    for (const { points, closed } of cut.contours)
        if (closed)
            points.forEach(([ax, ay], i) => {
                const [bx, by] = points[(i + 1) % points.length]!;
                if (ay! > y !== by! > y && x < ax! + ((y - ay!) / (by! - ay!)) * (bx! - ax!))
                    within = !within;
            });
    return within;
}
watch(
    () => props.view,
    (now, before) => {
        before?.host.removeEventListener('pointermove', hover);
        now?.host.addEventListener('pointermove', hover);
    },
    { immediate: true },
);
onUnmounted(() => props.view?.host.removeEventListener('pointermove', hover));
</script>

<template>
    <AxisHandle
        v-if="filled && level"
        :view="view"
        :drawn="drawn"
        :at="taken?.at ?? level"
        :way="capacity.up"
        :text="() => `${f.liquid(filled!.volume)}, ${f.millimetres(filled!.depth)} deep`"
        label="Level of the liquid"
        testid="level-handle"
        @moving="drag"
        @moved="drop"
    />
    <span
        v-for="l in labels"
        :key="l.key"
        class="label figure"
        :style="{ transform: `translate(-50%, -140%) translate(${l.x}px, ${l.y}px)` }"
        aria-hidden="true"
        >{{ l.text }}</span
    >
</template>

<style scoped>
.label {
    position: absolute;
    top: 0;
    left: 0;
    padding: 0 6px;
    border: 1px solid #a8761f;
    border-radius: 3px;
    color: #1f2b33;
    background: #fbf9f4;
    white-space: nowrap;
    pointer-events: none;
}
</style>
