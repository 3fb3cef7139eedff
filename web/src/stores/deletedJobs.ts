// Jobs that were deleted, and can be brought back for some days.
import { defineStore } from 'pinia';
import { ref } from 'vue';
import { answer, api, ProblemError, type Schemas } from '../api/client';
import { useJob } from './job';

export type DeletedJob = Schemas['DeletedJob'];

/** Until when a deleted job can be brought back. */
export function lastDay(job: DeletedJob): string {
    const day = new Date(job.at);
    day.setDate(day.getDate() + job.days);
    return day.toLocaleDateString(undefined, { day: 'numeric', month: 'long' });
}

export const useDeletedJobs = defineStore('deletedJobs', () => {
    const jobs = useJob();
    const list = ref<DeletedJob[]>([]);

    /** Does something and reads anew what there is; what fails stands in the refusal bar. */
    async function then(work: () => Promise<unknown>): Promise<void> {
        try {
            await work();
            list.value = await answer(api.GET('/api/v1/deleted-jobs'));
        } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
            jobs.refusal = error.problem;
        }
    }

    const load = () => then(async () => {});
    const remove = (job: string) =>
        then(async () => {
            await answer(api.DELETE('/api/v1/jobs/{job}', { params: { path: { job } } }));
            await jobs.reload();
        });
    const bringBack = (job: string) =>
        then(async () => {
            await answer(api.POST('/api/v1/deleted-jobs/{job}/bring-back', { params: { path: { job } } }));
            await jobs.open(job);
        });

    return { list, load, remove, bringBack };
});
