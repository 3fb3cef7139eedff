// The job as the server holds it: parts, ledger, examinations; and the writes that change it.
import { defineStore } from 'pinia';
import { computed, ref, shallowReactive } from 'vue';
import {
    answer,
    api,
    follow,
    ProblemError,
    type Examination,
    type Face,
    type Job,
    type Material,
    type Problem,
    type Task,
} from '../api/client';

export const useJob = defineStore('job', () => {
    const job = ref<Job | null>(null);
    const jobs = ref<{ id: string; name: string }[]>([]);
    const loading = ref(true);
    /** Why the job could not be read, if so. */
    const trouble = ref<Problem | null>(null);
    /** The last write that failed, shown until dismissed. */
    const refusal = ref<Problem | null>(null);
    const materials = ref<readonly Material[]>([]);
    const examinations = shallowReactive(new Map<string, Examination>());

    const parts = computed(() => job.value?.parts ?? []);
    const canUndo = computed(() => (job.value?.cursor ?? 0) > 0);
    const canRedo = computed(() => !!job.value && job.value.cursor < job.value.steps.length);

    async function guarded<T>(work: () => Promise<T>): Promise<T | undefined> {
        try {
            return await work();
        } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
            refusal.value = error.problem;
            if (error.problem.type === 'urn:nimbet:stale-revision') await reload();
            return undefined;
        }
    }

    /** Reads the list of jobs and opens one: the given, the last opened, or the newest. */
    async function open(id?: string): Promise<void> {
        try {
            jobs.value = await answer(api.GET('/api/v1/jobs'));
            const wanted = id ?? localStorage.getItem('nimbet.job');
            const found = jobs.value.find((j) => j.id === wanted) ?? jobs.value[0];
            job.value = found
                ? await answer(api.GET('/api/v1/jobs/{job}', { params: { path: { job: found.id } } }))
                : null;
            if (found) localStorage.setItem('nimbet.job', found.id);
            if (!materials.value.length)
                materials.value = (await answer(api.GET('/api/v1/catalogue'))).materials;
            trouble.value = null;
        } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
            trouble.value = error.problem;
        } finally {
            loading.value = false;
        }
    }

    const reload = () => open(job.value?.id);

    async function create(name: string): Promise<void> {
        const made = await guarded(() => answer(api.POST('/api/v1/jobs', { body: { name } })));
        if (made) await open(made.id);
    }

    /** Puts the ledger at a place: undo and redo. */
    async function moveTo(cursor: number): Promise<void> {
        const held = job.value;
        if (!held || cursor < 0 || cursor > held.steps.length || cursor === held.cursor) return;
        const moved = await guarded(() =>
            answer(
                api.PUT('/api/v1/jobs/{job}/cursor', {
                    params: { path: { job: held.id } },
                    body: { revision: held.revision, cursor },
                }),
            ),
        );
        if (moved) job.value = moved;
    }

    /** Sets the chord tolerance of new bodies. */
    async function setChord(chord: number): Promise<void> {
        const held = job.value;
        if (!held || chord === held.chord) return;
        const changed = await guarded(() =>
            answer(
                api.PUT('/api/v1/jobs/{job}/settings', {
                    params: { path: { job: held.id } },
                    body: { revision: held.revision, chord },
                }),
            ),
        );
        if (changed) job.value = changed;
    }

    /** Names a step and notes something on it. */
    async function label(step: number, name: string, note: string): Promise<void> {
        const held = job.value;
        if (!held) return;
        const changed = await guarded(() =>
            answer(
                api.PUT('/api/v1/jobs/{job}/steps/{step}/label', {
                    params: { path: { job: held.id, step } },
                    body: { revision: held.revision, name: name.trim() || null, note: note.trim() || null },
                }),
            ),
        );
        if (changed) job.value = changed;
    }

    const undo = () => moveTo((job.value?.cursor ?? 0) - 1);
    const redo = () => moveTo((job.value?.cursor ?? 0) + 1);

    /** What is known of a mesh; kept, for it never changes. */
    async function examination(mesh: string): Promise<Examination | undefined> {
        const known = examinations.get(mesh);
        if (known) return known;
        return guarded(async () => {
            const response = await fetch(`/api/v1/meshes/${mesh}/examination`);
            if (!response.ok) throw new ProblemError((await response.json()) as Problem);
            const got = (await response.json()) as Examination;
            examinations.set(mesh, got);
            return got;
        });
    }

    const faces = shallowReactive(new Map<string, readonly Face[]>());
    /** The faces of a mesh; kept. */
    async function facesOf(mesh: string): Promise<readonly Face[]> {
        const known = faces.get(mesh);
        if (known) return known;
        const got = await answer(api.GET('/api/v1/meshes/{mesh}/faces', { params: { path: { mesh } } }));
        faces.set(mesh, got.faces);
        return got.faces;
    }

    /** The mesh a part came in with. */
    function origin(part: number): string | undefined {
        const steps = job.value?.steps ?? [];
        const made = steps.flatMap((s) =>
            (s.report.made ?? []).map((m, i) => ({ id: s.number + 1 + i, mesh: m.mesh })),
        );
        return steps.find((s) => s.number === part)?.mesh ?? made.find((m) => m.id === part)?.mesh;
    }

    /** Runs a queued task to its end and shows what it changed. Rethrows its problem. */
    async function finish(queued: Promise<Task>, tell: (task: Task) => void): Promise<Task> {
        const over = await follow(await queued, tell);
        if (over.problem) throw new ProblemError(over.problem);
        return over;
    }

    return {
        job,
        jobs,
        loading,
        trouble,
        refusal,
        materials,
        examinations,
        facesOf,
        origin,
        parts,
        canUndo,
        canRedo,
        open,
        reload,
        create,
        moveTo,
        setChord,
        label,
        undo,
        redo,
        examination,
        finish,
    };
});
