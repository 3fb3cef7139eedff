// Lengths and angles a person asks for: measured now, or kept as notes that follow the model.
import { defineStore } from 'pinia';
import { computed, ref, shallowReactive, shallowRef, watch } from 'vue';
import { answer, api, ProblemError, type Schemas } from '../api/client';
import { useBench } from './bench';
import { useJob } from './job';
import { useMeshes } from './meshes';
import { usePicks, type Picked } from '../tools/picking/picks';

export type Measure = Schemas['Measure'];
export type Measured = Schemas['MeasuredValue'];
export type MeasureKind = Measure['what'];

export const measureKinds: { key: MeasureKind; name: string; hint: string; count: number }[] = [
    { key: 'points', name: 'Two points', hint: 'Click two points.', count: 2 },
    { key: 'edge', name: 'Edge', hint: 'Click beside an edge.', count: 1 },
    { key: 'face', name: 'Radius, ⌀, area', hint: 'Click a face.', count: 1 },
    { key: 'angle', name: 'Angle', hint: 'Click two faces.', count: 2 },
    { key: 'faces', name: 'Between faces', hint: 'Click two faces.', count: 2 },
    { key: 'parts', name: 'Between parts', hint: 'Click two parts.', count: 2 },
];

export const useMeasures = defineStore('measures', () => {
    const bench = useBench();
    const jobs = useJob();
    const meshes = useMeshes();
    const picks = usePicks();
    /** What was measured last, not kept yet. */
    const last = shallowRef<{ measure: Measure; measured: Measured } | null>(null);
    const trouble = ref('');
    /** What each note says of the parts as they are, or why it says nothing. */
    const told = shallowReactive(new Map<string, Measured | string>());

    async function ask(measure: Measure): Promise<Measured | string> {
        const job = jobs.job;
        if (!job) return 'There is no job.';
        const params = { path: { job: job.id } };
        try {
            const got = await answer(api.POST('/api/v1/jobs/{job}/measure', { params, body: { measure } }));
            return got.measured;
        } catch (error) {
            if (error instanceof ProblemError) return error.problem.detail;
            throw error;
        }
    }

    async function spot(p: Picked): Promise<Schemas['Spot'] | null> {
        const mesh = jobs.parts.find((part) => part.id === p.on?.part)?.mesh;
        if (!p.on || !mesh) return null;
        const face = await meshes.anchor(mesh, p.on.face, p.at);
        return { part: p.on.part, at: p.at, face: face ?? p.at } as Schemas['Spot'];
    }

    function begin(kind: MeasureKind) {
        const how = measureKinds.find((k) => k.key === kind)!;
        last.value = null;
        trouble.value = '';
        picks.ask(how.hint, how.count, async (points) => {
            const spots = (await Promise.all(points.map(spot))).filter((s) => s !== null);
            const [from, to] = spots;
            if (!from || (how.count > 1 && !to)) return;
            const measure = (
                kind === 'parts'
                    ? { what: kind, from: from.part, to: to!.part }
                    : how.count === 1
                      ? { what: kind, at: from }
                      : { what: kind, from, to }
            ) as Measure;
            const got = await ask(measure);
            if (typeof got === 'string') trouble.value = got;
            else last.value = { measure, measured: got };
        });
    }

    const kept = computed(() => jobs.job?.setup.measures ?? []);
    function keep() {
        if (!last.value) return;
        let n = kept.value.length + 1;
        while (kept.value.some((m) => m.name === `M${n}`)) n++;
        const { measure } = last.value;
        last.value = null;
        void jobs.setUp({ measures: [...kept.value, { name: `M${n}`, measure }] });
    }
    const remove = (n: number) => jobs.setUp({ measures: kept.value.filter((_, i) => i !== n) });

    watch(
        [kept, () => jobs.parts.map((p) => p.mesh).join()],
        async () => {
            for (const { name, measure } of kept.value) told.set(name, await ask(measure));
        },
        { immediate: true },
    );

    /** The lines to draw: kept notes of the parts shown, and what was measured last. */
    const lines = computed(() => {
        const shown = new Set(bench.shownParts.map((p) => p.id));
        const parts = (m: Measure): number[] =>
            m.what === 'parts'
                ? [m.from, m.to]
                : 'at' in m
                  ? [m.at.part]
                  : [(m.from as { part: number }).part, (m.to as { part: number }).part];
        const notes = kept.value.flatMap(({ name, measure }) => {
            const got = told.get(name);
            if (!got || typeof got === 'string' || !parts(measure).every((p) => shown.has(p))) return [];
            return [{ name, got }];
        });
        return [...notes, ...(last.value ? [{ name: '', got: last.value.measured }] : [])];
    });

    return { last, trouble, told, kept, begin, keep, remove, lines };
});
