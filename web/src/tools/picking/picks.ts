// What is being picked in the viewport for the considered step. The picks themselves stand in the step's parameters.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Action } from '../../api/client';
import { runsBetween, type RimLine, type Run, type Xyz } from '../../rimRuns';
import { useForecast } from '../../stores/forecast';
import { useJob } from '../../stores/job';
import { useTools } from '../../stores/tools';
import { ownMissing, ownPicking } from '../own';
import { noRun, unchosen } from '../seal/runs';
import { lacksParts, pickingOf, type Picked, type Picking } from './pickings';

export { type Picked } from './pickings';

/** A field whose parts are clicked in the view. */
export interface PartAsker {
    chosen: () => readonly number[];
    toggle: (part: number) => void;
}

export const usePicks = defineStore('picks', () => {
    const forecast = useForecast();
    /** Split points of a bridge between runs; those of a split cover stand in its parameters. */
    const splits = ref<Xyz[]>([]);
    const rimLines = shallowRef<readonly RimLine[]>([]);
    /** Whether clicks on a rim split it or choose its runs. */
    const stage = ref<'points' | 'runs'>('points');
    const brush = ref(0);
    /** The grid places on faces are drawn to, mm; none at 0. */
    const grid = ref(0);
    /** Points asked for once, on the side, and what is done when all are there. */
    const asked = shallowRef<{ picking: Picking; count: number; done: (points: Picked[]) => void } | null>(
        null,
    );
    /** The chambers that become parts, and the one under the pointer, by their place in the forecast. */
    const chambers = ref<number[]>([]);
    const aimedChamber = ref<number | null>(null);

    /** The field that takes the parts that are clicked. */
    const partAsker = shallowRef<PartAsker | null>(null);

    const described = (action: Action) => useTools().described(action);
    const picking = computed<Picking | null>(() => {
        if (asked.value) return asked.value.picking;
        const action = forecast.draft;
        if (!action) return null;
        const split = (points: Xyz[]) => (splits.value = points);
        const own = ownPicking(action, { ready: !!forecast.ready, splits: splits.value, split });
        return own === undefined ? pickingOf(described(action), action) : own;
    });

    const runs = computed<Run[]>(() =>
        picking.value?.kind === 'rim point'
            ? runsBetween(
                  rimLines.value,
                  picking.value.points.map((p) => p.at),
              )
            : [],
    );

    const sameRun = (run: Run, through: readonly number[]) => run.through.every((x, i) => x === through[i]);
    /** The chosen runs, in the order in which they were chosen. */
    const chosenRuns = computed<Run[]>(() => {
        const a = forecast.draft;
        const throughs: (readonly number[])[] =
            a?.kind === 'seal.cover_runs' && typeof a.runs === 'object'
                ? a.runs.picked
                : a?.kind === 'seal.bridge' && 'through' in a.from && 'through' in a.to
                  ? [a.from, a.to].filter((r) => !unchosen(r)).map((r) => r.through)
                  : [];
        return throughs.flatMap((t) => runs.value.filter((r) => sameRun(r, t)).slice(0, 1));
    });

    /** What is missing before the step can be forecast, in words; null if nothing is. */
    function missing(action: Action): string | null {
        const now = picking.value;
        if (now && now.points.length < now.least) return now.hint;
        if (action.kind === 'seal.bridge' && 'through' in action.from && runs.value.length < 2)
            return 'Click the points where the runs begin and end.';
        return (
            ownMissing(action) ?? (lacksParts(described(action), action) ? 'Choose the other part.' : null)
        );
    }

    function set(points: Picked[]) {
        const [now, side] = [picking.value, asked.value];
        if (side) {
            if (points.length < side.count) {
                asked.value = { ...side, picking: { ...side.picking, points } };
            } else {
                asked.value = null;
                side.done(points);
            }
        } else if (now) {
            change(now.with(points));
        }
    }

    /** Asks for points of the parts shown; clicking again takes one back. */
    function ask(hint: string, count: number, done: (points: Picked[]) => void) {
        const picking: Picking = {
            kind: 'point',
            hint,
            least: count,
            points: [],
            with: () => forecast.draft!,
        };
        asked.value = { picking, count, done };
    }

    /** Asks no longer; says whether it did. */
    function stopAsking(): boolean {
        const did = asked.value !== null;
        asked.value = null;
        return did;
    }

    function toggleChamber(n: number) {
        const held = chambers.value.includes(n);
        chambers.value = held ? chambers.value.filter((c) => c !== n) : [...chambers.value, n];
    }

    /** The considered step as it is applied: only the picked chambers become parts. */
    function finished(action: Action): Action {
        const made = forecast.ready?.report.made;
        if (action.kind !== 'shape.chambers' || !made) return action;
        return {
            ...action,
            picked: chambers.value.flatMap((n) => (made[n]?.inside ? [made[n].inside] : [])),
        };
    }

    forecast.finishing = finished;

    /** Changes something of the step that its forecast does not show. */
    const alter = (action: Action) => (forecast.draft = action);

    /** Changes the considered step; its forecast follows when nothing is missing any more. */
    function change(action: Action) {
        forecast.draft = action;
        const lacks = missing(action);
        if (lacks) forecast.wait();
        else void forecast.consider(forecast.title, action);
    }

    /** The same by hand: the step is the tool's then, no longer the remedy's it began as. */
    function changeByHand(action: Action) {
        if (!useJob().asOf?.reopened) forecast.title = useTools().of(action)?.name ?? forecast.title;
        change(action);
    }

    /** Takes a tool up. */
    function start(name: string, action: Action) {
        forecast.begin(name, action);
        if (!missing(action)) void forecast.consider(name, action);
    }

    /** Adds a pick, or takes back the one that is nearer to it than `near`, mm. */
    function toggle(pick: Picked, near: number) {
        const now = picking.value;
        if (!now) return;
        const away = (p: Picked) => Math.hypot(...p.at.map((x, i) => x - pick.at[i]!));
        const held = now.points.find((p) => away(p) <= near);
        set(held ? now.points.filter((p) => p !== held) : [...now.points, pick]);
    }

    function toggleRun(run: Run) {
        const a = forecast.draft;
        const chosen = chosenRuns.value.some((r) => r.name === run.name)
            ? chosenRuns.value.filter((r) => r.name !== run.name)
            : [...chosenRuns.value, run];
        if (a?.kind === 'seal.cover_runs') {
            change({ ...a, runs: chosen.length ? { picked: chosen.map((r) => r.through) } : 'all' });
        } else if (a?.kind === 'seal.bridge') {
            const [from, to] = chosen.slice(-2).map((r) => ({ from: r.from, to: r.to, through: r.through }));
            change({ ...a, from: from ?? noRun, to: to ?? noRun });
        }
    }

    watch(
        () => forecast.draft?.kind,
        () => {
            stage.value = 'points';
            splits.value = [];
            asked.value = null;
        },
    );
    watch(
        () => forecast.ready,
        () => {
            chambers.value = [];
            aimedChamber.value = null;
        },
    );

    return {
        picking,
        partAsker,
        brush,
        grid,
        stage,
        rimLines,
        runs,
        chosenRuns,
        missing,
        start,
        set,
        change,
        changeByHand,
        alter,
        ask,
        stopAsking,
        chambers,
        aimedChamber,
        toggle,
        toggleChamber,
        toggleRun,
    };
});
