// Files being brought in: sent, read, proved; with progress and cancel.
import { defineStore } from 'pinia';
import { reactive, ref } from 'vue';
import {
    answer,
    api,
    ProblemError,
    sendFile,
    unreachable,
    type PickedBody,
    type Problem,
    type Task,
} from '../api/client';
import { fewAtATime, leftOut, type Handed } from '../files';
import type { unitNames } from '../text';
import { useBench } from './bench';
import { useJob } from './job';

export interface Arrival {
    /** No two have the same. */
    id: number;
    name: string;
    bytes: number;
    task: Pick<Task, 'fraction' | 'doing' | 'state'>;
    problem: Problem | null;
    /** What is worth knowing about how it was read. */
    notes: readonly string[];
    part: number | null;
    /** What the recipe that was done to it is called. */
    recipe: string;
    cancel: () => void;
    /** Brings the same file in once more, said what was asked. */
    again: (said: Partial<Said>) => void;
}

/** What is said of how a file is read. */
interface Said {
    unit: keyof typeof unitNames;
    /** The bodies that come in, each as a part; null: all as one. */
    bodies?: PickedBody[] | null;
    /** How far triangles may stand off exact surfaces, mm. */
    chord?: string;
}

/** A file's name without its ending, as a job is called. */
const jobNameOf = (file: string) =>
    file
        .replace(/\.[^.]*$/, '')
        .slice(0, 200)
        .trim() || 'New job';

/** A recipe to be done to files as they come in. */
export interface ChosenRecipe {
    name: string;
    text: () => Promise<string>;
}

/** So many files are sent and read at a time; the server does as many tasks. */
const AT_ONCE = 3;

export const useBringIn = defineStore('bringIn', () => {
    const jobs = useJob();
    const bench = useBench();
    const unit = ref<keyof typeof unitNames>('auto');
    const arrivals = ref<Arrival[]>([]);
    const recipe = ref<ChosenRecipe | null>(null);

    /** What of the files handed over last stayed out. */
    const stayedOut = ref('');

    async function bring(handed: Handed): Promise<void> {
        const { files } = handed;
        stayedOut.value = leftOut(handed);
        if (!files.length && !stayedOut.value) return;
        bench.openStation('bring');
        // Dropped where no job is open, they become one.
        if (!jobs.job && files.length) await jobs.create(jobNameOf(files[0]!.name));
        const name = recipe.value?.name ?? '';
        const text = recipe.value ? await recipe.value.text() : '';
        // Those that wait go where they were meant to, whichever job is looked at when it is their turn.
        const job = jobs.job;
        if (!job) return;
        // All are in the list at once; those whose turn has not come can be taken out of it.
        const waiting = files.map((file) => ({ file, arrival: announced(file, name) }));
        arrivals.value.unshift(...waiting.map((one) => one.arrival));
        await fewAtATime(waiting, AT_ONCE, ({ file, arrival }) => bringOne(job, file, arrival, text));
    }

    let announcements = 0;
    function announced(file: File, recipe: string): Arrival {
        const arrival = reactive<Arrival>({
            id: (announcements += 1),
            name: file.name,
            bytes: file.size,
            task: { fraction: 0, doing: 'waiting for its turn', state: 'queued' },
            problem: null,
            notes: [],
            part: null,
            recipe,
            cancel: () => dismiss(arrival),
            again: () => {},
        });
        return arrival;
    }

    async function bringOne(
        job: { id: string },
        file: File,
        arrival: Arrival,
        text: string,
        said: Said = { unit: unit.value },
    ): Promise<void> {
        if (!arrivals.value.includes(arrival)) return;
        const stop = new AbortController();
        arrival.cancel = () => stop.abort();
        arrival.again = (more) => {
            const next = announced(file, arrival.recipe);
            arrivals.value = arrivals.value.map((a) => (a === arrival ? next : a));
            void bringOne(job, file, next, text, { ...said, ...more });
        };
        try {
            const tell = (sent: number) =>
                (arrival.task = { fraction: sent * 0.3, doing: 'sending', state: 'queued' });
            // Where its size leaves more than one unit, or it holds more than one body, people are asked.
            const bodies = said.bodies ? JSON.stringify(said.bodies) : 'joined';
            const fields = {
                unit: said.unit === 'auto' ? 'ask' : said.unit,
                bodies: said.bodies === undefined ? 'ask' : bodies,
                chord: said.chord ?? '',
                who: jobs.who,
                recipe: text,
            };
            const queued = await sendFile(job.id, file, fields, tell, stop.signal);
            arrival.cancel = () =>
                void api.DELETE('/api/v1/tasks/{task}', { params: { path: { task: queued.id } } });
            const over = await jobs.write(async () => {
                const over = await jobs.finish(
                    Promise.resolve(queued),
                    (t) => (arrival.task = { ...t, fraction: 0.3 + 0.7 * t.fraction }),
                );
                await jobs.reload();
                return over;
            });
            const step = jobs.job?.steps.find((s) => s.number === over.result?.step);
            // Of a drawing that is the profile it makes on the bench.
            const part = step && (step.part || step.report.made?.[0]?.part);
            arrival.part = part ?? null;
            arrival.notes = step?.report.left ?? [];
            if (part) bench.selectPart(part);
        } catch (error) {
            arrival.problem =
                error instanceof ProblemError ? error.problem : { ...unreachable, detail: String(error) };
            arrival.task = { ...arrival.task, state: 'failed' };
        }
    }

    /** The recipe that is being done on the empty bench. */
    const begun = ref<{ key: string; doing: string } | null>(null);

    /** Does a recipe that begins with nothing. */
    async function begin(example: { key: string; name: string; recipe: object }): Promise<void> {
        const job = jobs.job;
        if (!job || begun.value) return;
        begun.value = { key: example.key, doing: 'Being made' };
        const options = {
            params: { path: { job: job.id } },
            body: { recipe: example.recipe as never, who: jobs.who },
        };
        await jobs.guarded(() =>
            jobs.write(async () => {
                await jobs.finish(
                    answer(api.POST('/api/v1/jobs/{job}/recipe', options)),
                    (t) => (begun.value = { key: example.key, doing: `${Math.round(t.fraction * 100)} %` }),
                );
                await jobs.reload();
            }),
        );
        begun.value = null;
        // What the last step was done to is what it was all about.
        const last = jobs.job?.steps.at(-1);
        if (last?.part) bench.selectPart(last.part);
        bench.openStation('shape');
    }

    function dismiss(arrival: Arrival) {
        arrivals.value = arrivals.value.filter((a) => a !== arrival);
    }

    return { unit, arrivals, stayedOut, recipe, begun, bring, begin, dismiss };
});
