// Releases of the job, and several parts released one after the other.
import { defineStore } from 'pinia';
import { ref, shallowRef, watch } from 'vue';
import {
    answer,
    api,
    ProblemError,
    type LengthUnit,
    type Release,
    type ReleaseFormat,
    type Task,
} from '../api/client';
import { useJob } from './job';

export const useReleases = defineStore('releases', () => {
    const jobs = useJob();
    const list = shallowRef<readonly Release[]>([]);
    const format = ref<ReleaseFormat>('3mf');
    const unit = ref<LengthUnit>('millimetre');
    const task = ref<Task | null>(null);
    const running = ref(false);
    /** The release whose sheet is looked at. */
    const chosen = ref<string | null>(null);
    /** What came of releasing several, in words. */
    const told = ref('');
    /** The file several were released in together. */
    const made = shallowRef<Release | null>(null);

    async function load() {
        const job = jobs.job;
        if (!job) return;
        const params = { path: { job: job.id } };
        list.value = await answer(api.GET('/api/v1/jobs/{job}/releases', { params })).catch(() => []);
    }
    watch(() => jobs.job?.id, load, { immediate: true });

    /** Proves and releases a part, or several in one 3MF. Rethrows its problem. */
    async function release(part: number, acceptLoss: boolean, others: number[] = []): Promise<void> {
        const job = jobs.job;
        if (!job) return;
        const body = {
            revision: job.revision,
            part,
            with: others,
            format: others.length ? ('3mf' as const) : format.value,
            unit: unit.value,
            accept_loss: acceptLoss,
        };
        const params = { path: { job: job.id } };
        try {
            const queued = answer(api.POST('/api/v1/jobs/{job}/releases', { params, body }));
            await jobs.finish(queued, (t) => (task.value = t));
            await load();
        } finally {
            task.value = null;
        }
    }

    /** Releases several parts; what cannot be is told, and the others are released all the same. */
    async function several(ids: readonly number[]): Promise<void> {
        running.value = true;
        made.value = null;
        const failed: string[] = [];
        for (const [n, id] of ids.entries()) {
            const name = jobs.parts.find((p) => p.id === id)?.name ?? '';
            told.value = `Releasing ${name}, ${n + 1} of ${ids.length}`;
            try {
                await release(id, false);
            } catch (error) {
                if (!(error instanceof ProblemError)) throw error;
                failed.push(`${name}: ${error.problem.detail}`);
            }
        }
        running.value = false;
        const done = ids.length - failed.length;
        told.value = [`${done} of ${ids.length} released`, ...failed].join('. ');
    }

    /** Releases several parts in one file: all of them, or none. */
    async function together([first, ...others]: readonly number[]): Promise<void> {
        if (first == null) return;
        running.value = true;
        made.value = null;
        told.value = `Releasing ${others.length + 1} parts in one 3MF`;
        try {
            await release(first, false, others);
            made.value = list.value[0] ?? null;
            told.value = `Proved and released: ${made.value?.sheet.checks[0]?.evidence ?? ''}.`;
        } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
            const fails = error.problem.checks?.find((c) => !c.holds);
            told.value = fails ? `Not released. ${fails.claim}: ${fails.evidence}` : error.problem.detail;
        }
        running.value = false;
    }

    function cancel() {
        if (task.value)
            void api.DELETE('/api/v1/tasks/{task}', { params: { path: { task: task.value.id } } });
    }

    return {
        list,
        format,
        unit,
        task,
        running,
        chosen,
        told,
        made,
        load,
        release,
        several,
        together,
        cancel,
    };
});
