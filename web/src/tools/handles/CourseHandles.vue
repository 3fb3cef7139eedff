<script setup lang="ts">
// Handles on what a loft or a sweep runs through: where outlines begin, how far a section has turned at the end, how large it is there.
import { computed } from 'vue';
import { figure } from '../../format';
import type { Xyz } from '../../rimRuns';
import { begunAt, useCourse } from '../../stores/course';
import type { Bench } from '../../viewport/bench';
import { usePicks } from '../picking/picks';
import AxisHandle from './AxisHandle.vue';
import LineHandle from './LineHandle.vue';

defineProps<{ view: Bench | null; drawn: number }>();
const course = useCourse();
const picks = usePicks();

const cross = ([a, b, c]: Xyz, [x, y, z]: Xyz): Xyz => [b * z - c * y, c * x - a * z, a * y - b * x];
const out = (at: Xyz, way: Xyz, by: number) => at.map((x, i) => x + way[i]! * by) as Xyz;

/** More than so many would hide each other. */
const MOST = 12;
const begins = computed(() => {
    const sections = course.step?.kind === 'shape.loft' ? (course.found?.sections ?? []) : [];
    return sections
        .flatMap(({ line, closed, begins: at }, n) =>
            at ? [{ n, line: line as Xyz[], closed, at: at as Xyz }] : [],
        )
        .slice(0, MOST);
});
function begin(section: number, at: Xyz) {
    const [step, found] = [course.step, course.found];
    if (step?.kind !== 'shape.loft' || !found) return;
    picks.change({ ...step, starts: begunAt((step.starts ?? []) as Xyz[], found, section, at) });
}

const sweep = computed(() => (course.step?.kind === 'shape.sweep' ? course.step : null));
const end = computed(() => {
    const e = sweep.value && course.found?.end;
    if (!e) return null;
    const [at, along, across] = [e.at, e.along, e.across] as Xyz[];
    const up = cross(along!, across!);
    const scale = sweep.value!.scale ?? 1;
    const arm = Math.max(e.reach * scale, 1e-9);
    return { at: at!, across: across!, up, arm, scale, reach: Math.max(e.reach, 1e-9) };
});
const twisted = (moved: number) =>
    Number(((sweep.value?.twist ?? 0) + (moved / end.value!.arm) * (180 / Math.PI)).toFixed(0));
/** Smaller than this at its end it would be a tip. */
const LEAST = 0.01;
const scaled = (moved: number) =>
    Math.max(Number((end.value!.scale + moved / end.value!.reach).toFixed(2)), LEAST);
</script>

<template>
    <LineHandle
        v-for="b in begins"
        :key="`begins ${b.n}`"
        :view="view"
        :drawn="drawn"
        :at="b.at"
        :line="b.line"
        :closed="b.closed"
        :text="`begins ${b.n + 1}`"
        :label="`Where outline ${b.n + 1} begins`"
        :testid="`begins-${b.n + 1}`"
        @moved="begin(b.n, $event)"
    />
    <template v-if="sweep && end">
        <AxisHandle
            :view="view"
            :drawn="drawn"
            :at="out(end.at, end.across, end.arm)"
            :way="end.up"
            :text="(moved) => `↻ ${figure(twisted(moved))}°`"
            label="How far it has turned at the end"
            testid="twist-handle"
            @moved="picks.change({ ...sweep, twist: twisted($event) })"
        />
        <AxisHandle
            :view="view"
            :drawn="drawn"
            :at="out(end.at, end.up, end.arm)"
            :way="end.up"
            :text="(moved) => `× ${figure(scaled(moved))}`"
            label="How many times larger it is at the end"
            testid="scale-handle"
            @moved="picks.change({ ...sweep, scale: scaled($event) })"
        />
    </template>
</template>
