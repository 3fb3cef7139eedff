// The job as the server holds it: parts, ledger, examinations; and the writes that change it.
import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import type { Schemas } from '../api/client';
import {
    answer,
    api,
    follow,
    ProblemError,
    type Job,
    type Edit,
    type Material,
    type Part,
    type Problem,
    type Setup,
    type Step,
    type Task,
} from '../api/client';

export const useJob = defineStore('job', () => {
    const job = ref<Job | null>(null);
    const jobs = ref<readonly Schemas['JobEntry'][]>([]);
    const loading = ref(true);
    /** Why the job could not be read, if so. */
    const trouble = ref<Problem | null>(null);
    /** The last write that failed, shown until dismissed. */
    const refusal = ref<Problem | null>(null);
    const materials = ref<readonly Material[]>([]);
    const processes = ref<readonly Schemas['Process'][]>([]);

    /** Who works here: stands on each step. */
    const who = ref(localStorage.getItem('nimbet.who') ?? '');
    watch(who, (name) => localStorage.setItem('nimbet.who', name));
    /** Parts as they were at a place in the ledger, while a step is reopened or states are compared. */
    const asOf = ref<{ parts: Part[]; reopened?: Step; from?: string } | null>(null);
    /** The edit being worked out. */
    const editing = ref<Task | null>(null);
    /** The change of another person that undo would take back, until it is decided. */
    const othersStep = ref('');
    /** What somebody else just did. */
    const news = ref('');

    const parts = computed(() => asOf.value?.parts ?? job.value?.parts ?? []);

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

    /** Reads what there is to begin with; opens no job yet. */
    const begin = () => open(undefined);

    /** Reads the list of jobs and opens one of them, if there is such a one. */
    async function open(id: string | undefined): Promise<void> {
        try {
            jobs.value = await answer(api.GET('/api/v1/jobs'));
            const found = jobs.value.find((j) => j.id === id);
            job.value = found
                ? await answer(api.GET('/api/v1/jobs/{job}', { params: { path: { job: found.id } } }))
                : null;
            asOf.value = null;
            if (found) {
                localStorage.setItem('nimbet.job', found.id);
                listen(found.id);
            }
            if (!materials.value.length) {
                const catalogue = await answer(api.GET('/api/v1/catalogue'));
                materials.value = catalogue.materials;
                processes.value = catalogue.processes;
            }
            trouble.value = null;
        } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
            trouble.value = error.problem;
        } finally {
            loading.value = false;
        }
    }

    /** Puts the job away; nothing of it is lost. */
    function close() {
        stream?.close();
        stream = null;
        asOf.value = null;
        job.value = null;
    }

    const reload = () => open(job.value?.id);

    let stream: EventSource | null = null;
    /** Writes of one's own under way: they tell of themselves. */
    let writing = 0;
    /** Follows the changes others make to a job. */
    function listen(id: string) {
        if (stream?.url.endsWith(`/jobs/${id}/events`)) return;
        stream?.close();
        stream = new EventSource(`/api/v1/jobs/${id}/events`);
        stream.onmessage = async (event) => {
            const told = JSON.parse(event.data as string) as Schemas['JobChanged'];
            if (writing || job.value?.id !== id) return;
            if (told.revision <= job.value.revision && told.setup_revision <= job.value.setup_revision)
                return;
            const [known, before] = [new Set(job.value.steps.map((s) => s.at + s.number)), job.value.undo];
            await reload();
            const now = job.value as Job | null;
            const by = now?.steps.find((s) => !known.has(s.at + s.number))?.who ?? 'Somebody else';
            if (now && now.undo !== before) news.value = `${by}: ${now.undo ?? 'everything undone'}`;
        };
    }

    /** Settles when the writes under way are over. */
    let written: Promise<unknown> = Promise.resolve();
    async function write<T>(work: () => Promise<T>): Promise<T> {
        writing++;
        const mine = work();
        written = Promise.allSettled([written, mine]);
        try {
            return await mine;
        } finally {
            writing--;
        }
    }

    async function create(name: string): Promise<void> {
        const made = await guarded(() => answer(api.POST('/api/v1/jobs', { body: { name } })));
        if (made) await open(made.id);
    }

    /** Undo and redo: from each ledger to the one before or after it. */
    async function step(way: 'undo' | 'redo', anyway = false): Promise<void> {
        // What is being applied is what is taken back.
        await written;
        const held = job.value;
        if (!held?.[way]) return;
        if (way === 'undo' && !anyway && held.undo_by && held.undo_by !== who.value) {
            othersStep.value = `${held.undo_by}: ${held.undo}`;
            return;
        }
        othersStep.value = '';
        const options = { params: { path: { job: held.id } }, body: { revision: held.revision } };
        await changing(
            way === 'undo'
                ? () => api.POST('/api/v1/jobs/{job}/undo', options)
                : () => api.POST('/api/v1/jobs/{job}/redo', options),
        );
    }

    /** A write that is answered with the job as it is then. */
    async function changing(send: () => Promise<{ data?: Job; error?: unknown }>): Promise<void> {
        await guarded(() =>
            write(async () => {
                const now = await answer(send());
                asOf.value = null;
                job.value = now;
            }),
        );
    }

    /** Changes earlier steps; what depends on them is worked out beside the person. */
    async function edit(what: Edit): Promise<void> {
        const held = job.value;
        if (!held || editing.value) return;
        const options = {
            params: { path: { job: held.id } },
            body: { revision: held.revision, edit: what, who: who.value || null },
        };
        await guarded(() =>
            write(async () => {
                try {
                    const queued = answer(api.POST('/api/v1/jobs/{job}/edits', options));
                    await finish(queued, (t) => (editing.value = t));
                    await reload();
                } finally {
                    editing.value = null;
                }
            }),
        );
    }

    function stopEdit() {
        if (editing.value)
            void api.DELETE('/api/v1/tasks/{task}', { params: { path: { task: editing.value.id } } });
    }

    /** Another job with the same parts and ledger. */
    async function copy(name: string): Promise<void> {
        const held = job.value;
        if (!held) return;
        const options = { params: { path: { job: held.id } }, body: { name } };
        const made = await guarded(() => answer(api.POST('/api/v1/jobs/{job}/copies', options)));
        if (made) await open(made.id);
    }

    /** Shows the parts as they were before a step, or after it. */
    async function look(
        at: number,
        after: boolean,
        how: { reopened?: Step; from?: string },
    ): Promise<boolean> {
        const held = job.value;
        if (!held) return false;
        const params = { path: { job: held.id }, query: { step: at, after } };
        const then = await guarded(() => answer(api.GET('/api/v1/jobs/{job}/parts', { params })));
        if (then) asOf.value = { parts: then, ...how };
        return !!then;
    }

    /** Changes how the job is set up. */
    async function setUp(change: Partial<Setup>): Promise<void> {
        const held = job.value;
        if (!held) return;
        await changing(() =>
            api.PUT('/api/v1/jobs/{job}/settings', {
                params: { path: { job: held.id } },
                body: { setup_revision: held.setup_revision, setup: { ...held.setup, ...change } },
            }),
        );
    }

    /** Names a step and notes something on it. */
    async function label(step: number, name: string, note: string): Promise<void> {
        const held = job.value;
        if (!held) return;
        await changing(() =>
            api.PUT('/api/v1/jobs/{job}/steps/{step}/label', {
                params: { path: { job: held.id, step } },
                body: { revision: held.revision, name: name.trim() || null, note: note.trim() || null },
            }),
        );
    }

    /** Takes the last change back; that of another person only when meant. */
    const undo = (anyway = false) => step('undo', anyway);
    const redo = () => step('redo');

    /** The mesh a part came in with, or the one it is compared with. */
    function origin(part: number): string | undefined {
        if (asOf.value?.from) return asOf.value.from;
        const steps = job.value?.steps ?? [];
        const made = steps.flatMap((s) =>
            (s.report.made ?? []).map((m, i) => ({ id: m.part ?? s.number + 1 + i, mesh: m.mesh })),
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
        processes,
        origin,
        parts,
        begin,
        close,
        open,
        reload,
        create,
        who,
        asOf,
        editing,
        news,
        othersStep,
        write,
        edit,
        stopEdit,
        copy,
        look,
        setUp,
        label,
        undo,
        redo,
        finish,
        guarded,
    };
});
