// The step being considered: its draft, what it would do, and applying it.
import { defineStore } from 'pinia';
import { computed, nextTick, ref, shallowReactive, shallowRef, watch } from 'vue';
import {
    answer,
    api,
    ProblemError,
    type Action,
    type LaterStep,
    type Problem,
    type Report,
    type Step,
    type Task,
} from '../api/client';
import type { StationKey } from '../text';
import { useBench } from './bench';
import { useJob } from './job';
import { useMeshes } from './meshes';

export interface Forecast {
    mesh: string;
    report: Report;
    /** Steps further down that would change. */
    later: readonly LaterStep[];
    /** Whether it is what a reopened step made, unchanged. */
    asItWas?: boolean;
}

/** What is meant for a job as it was before. */
const STALE = 'urn:nimbet:stale-revision';

export const useForecast = defineStore('forecast', () => {
    const jobs = useJob();
    const meshes = useMeshes();
    const bench = useBench();
    const title = ref('');
    const draft = ref<Action | null>(null);
    /** Where the tool was taken up: it is open there until it is put away. */
    const station = ref<StationKey>('seal');
    const inSight = computed(
        () => draft.value !== null && bench.tab === 'station' && bench.station === station.value,
    );
    const ready = ref<Forecast | null>(null);
    const problem = ref<Problem | null>(null);
    const task = ref<Task | null>(null);
    const applying = ref(false);
    /** What the last applied step did, until the next is considered. */
    const applied = ref<{ title: string; report: Report } | null>(null);
    /** Only the newest forecast may speak. */
    let turn = 0;

    const working = computed(() => task.value !== null);
    /** Fields of the step with a figure that is not in it yet; each tells it when called. */
    const typed = shallowReactive(new Map<symbol, () => void>());
    /** Fields of the step with what is no figure for it. */
    const wrong = shallowReactive(new Set<symbol>());
    /** Settles when the newest forecast is there. */
    let considering: Promise<void> = Promise.resolve();
    /** What is still to be put into a step when it is applied; told by the store of picks. */
    const finishing = shallowRef((action: Action) => action);

    async function request(kind: 'forecasts' | 'steps', action: Action): Promise<Task> {
        const { job } = jobs;
        if (!job) throw new Error('no job is open');
        const who = jobs.who || null;
        const over = jobs.asOf?.reopened;
        if (over) {
            const edit = { edit: 'replace' as const, step: over.number, action };
            const options = {
                params: { path: { job: job.id } },
                body: { revision: job.revision, edit, who },
            };
            return kind === 'steps'
                ? answer(api.POST('/api/v1/jobs/{job}/edits', options))
                : answer(api.POST('/api/v1/jobs/{job}/edit-forecasts', options));
        }
        const options = {
            params: { path: { job: job.id } },
            body: { revision: job.revision, part: bench.partNumber, action, who },
        };
        return kind === 'steps'
            ? answer(api.POST('/api/v1/jobs/{job}/steps', options))
            : answer(api.POST('/api/v1/jobs/{job}/forecasts', options));
    }

    /** Considers a step: works out its forecast. */
    function consider(name: string, action: Action): Promise<void> {
        if (draft.value?.kind !== action.kind) station.value = bench.station;
        considering = workOut(name, action);
        return considering;
    }

    async function workOut(name: string, action: Action, again = false): Promise<void> {
        dropTask();
        const mine = ++turn;
        title.value = name;
        draft.value = action;
        ready.value = null;
        problem.value = null;
        applied.value = null;
        try {
            const over = await jobs.finish(
                request('forecasts', action),
                (t) => mine === turn && (task.value = t),
            );
            if (mine !== turn) return;
            const { mesh, report, later } = over.result ?? {};
            if (mesh && report) {
                await meshes.examination(mesh);
                if (mine !== turn) return;
                ready.value = { mesh, report, later: later ?? [] };
            }
        } catch (error) {
            if (mine !== turn) return;
            // The job has changed meanwhile, the part perhaps not: a forecast of it as it is now is what is meant.
            if (!again && error instanceof ProblemError && error.problem.type === STALE) {
                await jobs.reload();
                if (mine === turn) return await workOut(name, action, true);
            } else tellProblem(error);
        } finally {
            if (mine === turn) task.value = null;
        }
    }

    /** Puts what was forecast away. */
    function clear() {
        ready.value = null;
        problem.value = null;
        applied.value = null;
    }

    /** Holds the draft without a forecast: something is still to be picked. */
    function wait() {
        turn++;
        dropTask();
        clear();
    }

    /** Begins a step that needs picks first. */
    function begin(name: string, action: Action) {
        wait();
        station.value = bench.station;
        title.value = name;
        draft.value = action;
    }

    /** Takes what was typed a moment ago as it is written. */
    const tellTyped = () => [...typed.values()].forEach((tell) => tell());

    /** Applies the considered step; what is typed but not in it yet is forecast first. */
    async function apply(): Promise<void> {
        if (wrong.size || applying.value) return;
        if (typed.size) {
            tellTyped();
            const meant = draft.value;
            await considering;
            // Another step may be considered by now.
            if (draft.value !== meant) return;
        }
        const [forecast, name] = [ready.value, title.value];
        if (!draft.value || !forecast || applying.value) return;
        const action = finishing.value(draft.value);
        const mine = ++turn;
        applying.value = true;
        const before = new Set(jobs.job?.parts.map((p) => p.id));
        const number = jobs.asOf?.reopened?.number;
        try {
            const over = await jobs.write(async () => {
                const over = await jobs.finish(request('steps', action), (t) => (task.value = t));
                await jobs.reload();
                return over;
            });
            const made = jobs.parts.filter((p) => !before.has(p.id));
            bench.pin(made.map((p) => p.id));
            // What is made of a profile is what people go on with.
            const body = made.find((p) => !p.figures.drawn);
            if (body && bench.part?.figures.drawn && number === undefined) {
                bench.selectPart(body.id);
                await nextTick();
            }
            draft.value = null;
            ready.value = null;
            const done = jobs.job?.steps.find((s) => s.number === (number ?? over.result?.step));
            applied.value = { title: name, report: done?.report ?? forecast.report };
            bench.selectFinding(null);
        } catch (error) {
            if (mine === turn) tellProblem(error);
        } finally {
            applying.value = false;
            task.value = null;
        }
    }

    /** Does, one after the other, the steps that would keep what the considered one loses; what was done stays where one fails. */
    async function applyInstead(): Promise<void> {
        const [instead, name] = [ready.value?.report.instead, title.value];
        if (!instead || applying.value || jobs.asOf?.reopened) return;
        const mine = ++turn;
        applying.value = true;
        try {
            for (const step of instead.steps) {
                await jobs.write(async () => {
                    await jobs.finish(request('steps', step as Action), (t) => (task.value = t));
                    await jobs.reload();
                });
            }
            [draft.value, ready.value] = [null, null];
            const done = jobs.job?.steps.at(-1);
            if (done) applied.value = { title: name, report: done.report };
            bench.selectFinding(null);
        } catch (error) {
            if (mine === turn) tellProblem(error);
        } finally {
            applying.value = false;
            task.value = null;
        }
    }

    function tellProblem(error: unknown) {
        if (!(error instanceof ProblemError)) throw error;
        if (error.problem.type === 'urn:nimbet:cancelled') return;
        problem.value = error.problem;
        if (error.problem.type === STALE) void jobs.reload();
    }

    function dropTask() {
        const held = task.value;
        task.value = null;
        if (held) void api.DELETE('/api/v1/tasks/{task}', { params: { path: { task: held.id } } });
    }

    /** Puts the considered step away; work on it stops. */
    function cancel() {
        turn++;
        dropTask();
        draft.value = null;
        clear();
        if (jobs.asOf?.reopened) jobs.asOf = null;
    }

    /** Whether a step is being reopened. */
    let opening = false;
    /** Reopens a step: its worksheet as it was, on the part as it was before it. */
    async function reopen(step: Step): Promise<void> {
        cancel();
        // That another part comes onto the bench by this puts nothing away.
        opening = true;
        try {
            if (!(await jobs.look(step.number, false, { reopened: step }))) return;
            bench.openStation(step.action.kind.split('.')[0] as StationKey);
            bench.selectPart(step.part);
            // The part as it was is on the bench before its forecast is asked for.
            await nextTick();
        } finally {
            opening = false;
        }
        begin(`Step ${step.number}: ${step.name ?? step.title}`, step.action);
        const { state } = step;
        if (state.is === 'done') {
            await meshes.examination(step.mesh);
            ready.value = { mesh: step.mesh, report: step.report, later: [], asItWas: true };
        } else if (state.is === 'stopped' || state.is === 'idle') {
            problem.value = {
                type: 'urn:nimbet:refused',
                title: state.is === 'idle' ? 'Nothing to do' : state.new_pick ? 'Pick again' : 'Stopped',
                status: 422,
                detail: state.why[0]!.toUpperCase() + state.why.slice(1) + '.',
                places: state.is === 'stopped' ? (state.places as [number, number, number][]) : [],
            };
        } else {
            await consider(title.value, step.action);
        }
    }

    // A forecast is about one part as it was: another part, or an undo, puts it away.
    watch([() => bench.part?.id, () => bench.part?.mesh], ([id], [before]) => {
        if (!applying.value && !opening && (id !== before || draft.value)) cancel();
    });

    return {
        title,
        draft,
        station,
        inSight,
        ready,
        problem,
        task,
        working,
        applying,
        applied,
        typed,
        tellTyped,
        wrong,
        finishing,
        consider,
        begin,
        wait,
        apply,
        applyInstead,
        cancel,
        reopen,
    };
});
