// Walking the ledger and changing one's mind: which step is chosen, and what can be done about it.
import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import type { Edit, Step } from '../api/client';
import { isExact, mayTellGroups } from '../text';
import { useBench } from './bench';
import { useForecast } from './forecast';
import { useJob } from './job';

/** Something to do about a step. */
interface Act {
    key: string;
    name: string;
    hint: string;
    run: () => unknown;
}

/** Whether a step has a worksheet to be reopened. */
export const canReopen = (step: Step) =>
    /^(seal|shape|wall|fasten)\.|^weigh\.(fill|scale_pattern)$/.test(step.action.kind);

/** Whether a step brought in a file with exact surfaces. */
const canBeReadAnew = (step: Step) =>
    step.action.kind === 'bring_in' && (isExact(step.action.file) || mayTellGroups(step.action.file));

/** Whether a step is done to a part, makes it, or takes it in. */
const concerns = (step: Step, part?: number) =>
    step.part === part ||
    (step.report.made ?? []).some((m) => m.part === part) ||
    step.others.includes(part ?? 0);

const numbers = (steps: number[]) => `${steps.length === 1 ? 'Step' : 'Steps'} ${steps.join(', ')}`;

export const useSteps = defineStore('steps', () => {
    const jobs = useJob();
    const forecast = useForecast();
    const bench = useBench();
    const chosen = ref<number | null>(null);
    const writing = ref(false);
    /** Whether a file is about to be read anew. */
    const reading = ref(false);
    /** An edit that takes other steps along, waiting for a yes. */
    const asked = ref<{ step: Step; words: string; verb: string; edit: Edit } | null>(null);
    /** The steps after which two states are compared. */
    const compared = ref<{ first: number; second: number } | null>(null);
    const all = computed(() => jobs.job?.steps ?? []);
    /** Whether only the steps of the part on the bench are listed. */
    const own = ref(false);
    const isListed = (step: Step) => !own.value || concerns(step, bench.part?.id);
    const listed = computed(() => all.value.filter(isListed));
    const isHeld = (place: number) => place >= (jobs.job?.cursor ?? 0);
    watch(chosen, () => {
        asked.value = null;
        writing.value = reading.value = false;
    });
    watch(
        () => jobs.job?.revision,
        () => (asked.value = null),
    );

    /** The step that drew a profile, or the profile a body was made of. */
    function drawingOf(part: number | undefined): Step | undefined {
        const made = (s: Step) => (s.report.made ?? []).some((m, i) => (m.part ?? s.number + 1 + i) === part);
        const step = part === undefined ? undefined : all.value.find(made);
        const { action } = step ?? {};
        if (action?.kind === 'shape.profile') return step;
        switch (action?.kind) {
            case 'shape.extrude':
            case 'shape.revolve':
            case 'shape.relief':
            case 'shape.sweep':
                return drawingOf(action.profile ?? step!.part);
            case 'shape.tube':
                return 'profiles' in action.path
                    ? drawingOf(action.path.profiles.parts[0] ?? step!.part)
                    : undefined;
            case 'shape.loft':
            case 'shape.patch':
                return drawingOf(step!.part) ?? drawingOf(action.profiles?.[0]);
            default:
                return undefined;
        }
    }

    function walk(by: number) {
        const at = listed.value.findIndex((s) => s.number === chosen.value);
        const to = listed.value[Math.min(listed.value.length - 1, Math.max(0, at + by))];
        if (to) chosen.value = to.number;
    }

    async function reopen(step: Step) {
        if (canReopen(step) && !isHeld(all.value.indexOf(step))) await forecast.reopen(step);
    }

    const verbs = { remove: 'Remove', park: 'Park' };

    /** Removes or parks a step; asks first where others depend on it. */
    function ask(what: 'remove' | 'park', step: Step) {
        const others = step.needed_by.filter(
            (n) => what === 'remove' || all.value.find((s) => s.number === n)?.state.is !== 'parked',
        );
        const edit: Edit = { edit: what, steps: [step.number, ...others] };
        if (!others.length) return void jobs.edit(edit);
        asked.value = {
            step,
            edit,
            verb: `${verbs[what]} all ${others.length + 1}`,
            words: `${numbers(others)} ${others.length === 1 ? 'needs' : 'need'} what this step makes and would go with it.`,
        };
    }

    function yes() {
        const edit = asked.value?.edit;
        asked.value = null;
        if (edit) void jobs.edit(edit);
    }

    function acts(step: Step, place: number): Act[] {
        const held = isHeld(place);
        const parked = step.state.is === 'parked';
        const [before, after] = [all.value[place - 1], all.value[place + 1]];
        const move = (to?: Step) =>
            jobs.edit({ edit: 'move', step: step.number, before: to?.number ?? null });
        const list: (Act | false)[] = [
            canReopen(step) &&
                !held && {
                    key: 'reopen',
                    name: 'Reopen',
                    hint: 'Change its figures or picks; what depends on it follows (Enter)',
                    run: () => reopen(step),
                },
            canBeReadAnew(step) &&
                !held && {
                    key: 'read',
                    name: 'Read anew',
                    hint: 'Its exact surfaces or its groups followed in another way; what depends on it follows',
                    run: () => (reading.value = true),
                },
            parked
                ? {
                      key: 'unpark',
                      name: 'Take in again',
                      hint: 'The step counts again',
                      run: () => jobs.edit({ edit: 'unpark', steps: [step.number] }),
                  }
                : {
                      key: 'park',
                      name: 'Park',
                      hint: 'Set aside, to be taken in again',
                      run: () => ask('park', step),
                  },
            place + 1 !== jobs.job?.cursor && {
                key: 'work',
                name: 'Work after this',
                hint: 'Later steps are held back and follow when you go on',
                run: () => jobs.edit({ edit: 'work_at', cursor: place + 1 }),
            },
            step.state.is === 'done' &&
                !held && {
                    key: 'keep',
                    name: 'Keep this state',
                    hint: 'A further part as it is after this step, to fall back on',
                    run: () => {
                        const name = `As after step ${step.number}`;
                        const action = { kind: 'keep' as const, name };
                        return jobs.edit({ edit: 'insert', after: step.number, part: step.part, action });
                    },
                },
            step.state.is === 'done' &&
                !held && {
                    key: 'compare',
                    name: 'Compare',
                    hint: 'This state beside the newest of its part',
                    run: () => {
                        const own = all.value.filter(
                            (s, i) => s.part === step.part && s.state.is === 'done' && !isHeld(i),
                        );
                        compared.value = { first: step.number, second: own[own.length - 1]!.number };
                    },
                },
            !!before && {
                key: 'earlier',
                name: 'Move up',
                hint: 'Before the step above it',
                run: () => move(before),
            },
            !!after && {
                key: 'later',
                name: 'Move down',
                hint: 'After the step below it',
                run: () => move(all.value[place + 2]),
            },
            {
                key: 'write',
                name: 'Name',
                hint: 'Name it, note something',
                run: () => (writing.value = true),
            },
            {
                key: 'remove',
                name: 'Remove',
                hint: 'Take it out (Del); undo brings it back',
                run: () => ask('remove', step),
            },
        ];
        return list.filter((act) => act !== false);
    }

    return {
        chosen,
        writing,
        reading,
        asked,
        compared,
        own,
        isListed,
        isHeld,
        drawingOf,
        walk,
        reopen,
        ask,
        yes,
        acts,
    };
});
