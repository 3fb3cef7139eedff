// What the remedies of the selected finding would do: each is tried on the side before it is chosen.
import { defineStore } from 'pinia';
import { shallowReactive, watch } from 'vue';
import { answer, api, ProblemError, type Action, type Finding, type Report, type Task } from '../api/client';
import { useBench } from './bench';
import { useForecast } from './forecast';
import { useJob } from './job';

export type Trial = { is: 'trying' } | { is: 'works'; told: string } | { is: 'fails'; why: string };

/** What a part would be afterwards, and what would be left undone, in words. */
export function trialOf(report: Report): Trial {
    const { after, left } = report;
    const state = after.state === 'sealed' ? 'a proved solid afterwards' : `${after.reason} afterwards`;
    return { is: 'works', told: left.length ? `${state}; ${left[0]}` : state };
}

export const useTrials = defineStore('trials', () => {
    const bench = useBench();
    const forecast = useForecast();
    const jobs = useJob();
    /** By the mesh and the step: what is known stays known. */
    const known = shallowReactive(new Map<string, Trial>());
    const keyOf = (action: Action) => `${bench.part?.mesh} ${JSON.stringify(action)}`;
    const of = (action: Action): Trial | undefined => known.get(keyOf(action));
    let turn = 0;
    let running: Task | null = null;

    function stop() {
        turn++;
        if (running) void api.DELETE('/api/v1/tasks/{task}', { params: { path: { task: running.id } } });
        running = null;
    }

    async function tryAll(finding: Finding) {
        const mine = turn;
        for (const { operation } of finding.remedies) {
            const [job, part] = [jobs.job, bench.part];
            const key = keyOf(operation);
            if (!job || !part || known.has(key)) continue;
            known.set(key, { is: 'trying' });
            try {
                const params = { path: { job: job.id } };
                const body = { revision: job.revision, part: part.id, action: operation };
                const queued = answer(api.POST('/api/v1/jobs/{job}/forecasts', { params, body }));
                const over = await jobs.finish(queued, (t) => mine === turn && (running = t));
                const report = over.result?.report;
                if (report) known.set(key, trialOf(report));
                else known.delete(key);
            } catch (error) {
                if (!(error instanceof ProblemError)) throw error;
                const { type, detail } = error.problem;
                // What was refused for the part itself is known; what was cut off or came too late is not.
                if (['urn:nimbet:refused', 'urn:nimbet:nothing-to-do'].includes(type))
                    known.set(key, { is: 'fails', why: detail });
                else known.delete(key);
            }
            if (mine !== turn) return;
        }
    }

    watch(
        [
            () => bench.finding,
            () => bench.part?.mesh,
            () => forecast.draft !== null,
            () => jobs.asOf !== null,
        ] as const,
        ([finding, , open, earlier]) => {
            stop();
            // A step that is considered comes first.
            if (finding && !open && !earlier) void tryAll(finding);
        },
    );

    return { of };
});
