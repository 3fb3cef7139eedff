// The jobs as a list: renamed, copied, archived, begun with the demo.
import { defineStore } from 'pinia';
import { ref } from 'vue';
import { answer, api, ProblemError } from '../api/client';
import { useJob } from './job';

export const useJobList = defineStore('jobList', () => {
    const jobs = useJob();
    const making = ref(false);

    /** Does something; what fails stands in the refusal bar. */
    async function guarded(work: () => Promise<unknown>): Promise<void> {
        try {
            await work();
        } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
            jobs.refusal = error.problem;
        }
    }

    const change = (job: string, what: { name?: string; archived?: boolean }) =>
        guarded(async () => {
            const options = { params: { path: { job } }, body: what };
            jobs.jobs = await answer(api.PATCH('/api/v1/jobs/{job}', options));
        });

    const copy = (job: string, name: string) =>
        guarded(async () => {
            const body = { name: `${name}, copy`.slice(0, 200) };
            await answer(api.POST('/api/v1/jobs/{job}/copies', { params: { path: { job } }, body }));
            await jobs.begin();
        });

    const tryDemo = () =>
        guarded(async () => {
            making.value = true;
            try {
                const made = await answer(api.POST('/api/v1/demo-jobs'));
                await jobs.open(made.id);
            } finally {
                making.value = false;
            }
        });

    return { making, change, copy, tryDemo };
});
