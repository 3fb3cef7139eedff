// Threads and what goes with them: the tables, the threads of the part, them cut to be looked at, and fits.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { answer, api, ProblemError, type Problem, type Schemas, type Task } from '../api/client';
import type { Held } from '../fitPair';
import { onWall, threadLine } from '../threadLine';
import { useBench } from './bench';
import { useForecast } from './forecast';
import { useJob } from './job';
import { useMeshes } from './meshes';
import { useWalls } from './walls';

type PartThread = Schemas['PartThread'];

export const useFasten = defineStore('fasten', () => {
    const bench = useBench();
    const jobs = useJob();
    const meshes = useMeshes();
    const walls = useWalls();
    const forecast = useForecast();
    const tables = shallowRef<Schemas['Catalogue'] | null>(null);
    void answer(api.GET('/api/v1/catalogue')).then((got) => (tables.value = got));

    const sizes = computed(() => tables.value?.threads ?? []);
    const sizeOf = (name: unknown) => sizes.value.find((s) => s.name === name) ?? null;
    const allowances = computed(
        () => tables.value?.allowances.find((a) => a.process === walls.making.process) ?? null,
    );
    /** The threads of the part on the bench whose faces are still there. */
    const there = shallowRef<readonly PartThread[]>([]);
    watch(
        [() => bench.part?.mesh, () => bench.part?.threads] as const,
        async ([mesh, threads]) => {
            there.value = threads ?? [];
            if (!mesh || !threads?.length) return;
            const faces = new Map((await meshes.facesOf(mesh).catch(() => [])).map((f) => [f.id, f.surface]));
            if (mesh !== bench.part?.mesh) return;
            there.value = threads
                .filter((t) => faces.has(t.mark.face))
                .map((t) => ({ ...t, mark: onWall(t.mark, faces.get(t.mark.face)) }));
        },
        { immediate: true },
    );
    const marked = computed(() => there.value.filter((t) => !t.mark.cut));

    /** The part with its threads cut, by its mesh, while that is looked at. */
    const cutMesh = ref<string | null>(null);
    const showsCut = ref(false);
    const task = shallowRef<Task | null>(null);
    const problem = ref<Problem | null>(null);
    async function run(queued: Promise<Task>): Promise<Task | null> {
        problem.value = null;
        try {
            return await jobs.finish(queued, (t) => (task.value = t));
        } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
            problem.value = error.problem;
            return null;
        } finally {
            task.value = null;
        }
    }
    async function showCut(on: boolean) {
        showsCut.value = on;
        const [job, part] = [jobs.job, bench.part];
        if (!on || !job || !part) return;
        const params = { path: { job: job.id, part: part.id } };
        const over = await run(answer(api.POST('/api/v1/jobs/{job}/parts/{part}/cut-threads', { params })));
        if (part.mesh !== bench.part?.mesh) return;
        cutMesh.value = over?.result?.mesh ?? null;
        showsCut.value = cutMesh.value !== null;
    }
    watch(
        () => bench.part?.mesh,
        () => {
            showsCut.value = false;
            cutMesh.value = null;
            problem.value = null;
        },
    );
    /** How marked threads are drawn: a line along each ridge, on what is shown. */
    const markings = computed(() => {
        if (jobs.asOf?.from || showsCut.value) return [];
        const foretold = (forecast.ready?.report.threads ?? []).filter((t) => !t.cut);
        const standing = forecast.draft && jobs.asOf ? [] : marked.value.map((t) => t.mark);
        return [...standing, ...foretold].slice(0, 400).map(threadLine);
    });
    const shownMesh = computed(() =>
        showsCut.value && !forecast.draft && bench.station === 'fasten' ? cutMesh.value : null,
    );

    /** All threads of the job, for fits. */
    const all = computed<Held[]>(() =>
        jobs.parts.flatMap((p) =>
            (p.id === bench.part?.id ? there.value : (p.threads ?? [])).map((thread) => ({
                part: p.id,
                partName: p.name,
                thread,
            })),
        ),
    );
    const stop = () =>
        task.value && void api.DELETE('/api/v1/tasks/{task}', { params: { path: { task: task.value.id } } });

    return {
        tables,
        sizes,
        sizeOf,
        allowances,
        there,
        marked,
        showsCut,
        showCut,
        shownMesh,
        markings,
        task,
        problem,
        all,
        run,
        stop,
    };
});
