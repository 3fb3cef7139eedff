// What the considered loft, sweep or tube leads a body through: sections, path, and what can be dragged there; known before it is made.
import { defineStore } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import { answer, api, type Action, type Schemas } from '../api/client';
import type { Xyz } from '../rimRuns';
import { useAsking } from './asking';
import { useBench } from './bench';
import { useForecast } from './forecast';
import { useJob } from './job';

type Led = Extract<Action, { kind: 'shape.loft' | 'shape.sweep' | 'shape.tube' }>;
export type Course = Schemas['Course'];

/** All whole numbers in a value: parts a step names are among them. */
function wholes(value: unknown): number[] {
    if (typeof value === 'number') return Number.isInteger(value) ? [value] : [];
    return value && typeof value === 'object' ? Object.values(value).flatMap(wholes) : [];
}

/** The place of a list nearest to a point, and how far it is, squared. */
function nearest(line: readonly (readonly number[])[], at: readonly number[]): number {
    return Math.min(...line.map((p) => p.reduce((s, x, i) => s + (x - at[i]!) ** 2, 0)));
}

/** The picked beginnings with that of one section moved to a place. */
export function begunAt(starts: readonly Xyz[], course: Course, section: number, at: Xyz): Xyz[] {
    const of = (start: Xyz) => {
        const off = course.sections.map((s) => nearest(s.line, start));
        return off.indexOf(Math.min(...off));
    };
    return [...starts.filter((s) => of(s) !== section), at];
}

export const useCourse = defineStore('course', () => {
    const bench = useBench();
    const forecast = useForecast();
    const jobs = useJob();
    const asking = useAsking();
    const found = shallowRef<Course | null>(null);
    const step = computed<Led | null>(() => {
        const a = forecast.draft;
        return a?.kind === 'shape.loft' || a?.kind === 'shape.sweep' || a?.kind === 'shape.tube' ? a : null;
    });
    /** What is asked, as JSON, so that it is asked again only where it changes. */
    const question = computed(() => {
        if (!step.value) return null;
        const named = new Set(wholes(step.value));
        const parts = jobs.parts.filter((p) => named.has(p.id)).map((p) => [p.id, p.mesh]);
        return JSON.stringify({
            action: step.value,
            mesh: bench.part?.mesh,
            parts: Object.fromEntries(parts) as Record<string, string>,
        });
    });
    watch(
        question,
        async (asked) => {
            if (!asked) {
                found.value = null;
                return;
            }
            const body = JSON.parse(asked) as Schemas['CourseRequest'];
            const got = await asking.ask((named) => answer(api.POST('/api/v1/courses', { body, ...named })));
            // What leads nowhere yet is told by the forecast.
            if (question.value === asked) found.value = got?.course ?? null;
        },
        { immediate: true },
    );
    /** Its lines, to be drawn. */
    const lines = computed(() => {
        const c = found.value;
        if (!c) return [];
        const sections = c.sections.map((s) => (s.closed ? [...s.line, s.line[0]!] : s.line) as Xyz[]);
        return [
            ...sections.map((points) => ({ points, colour: '#2F6690', width: 1 })),
            { points: c.path as Xyz[], colour: '#2F6690', width: 2.5 },
        ].filter((l) => l.points.length > 1);
    });
    return { step, found, lines };
});
