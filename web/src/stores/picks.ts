// What is being picked in the viewport for the considered step. The picks themselves stand in the step's parameters.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Action } from '../api/client';
import { runsBetween, type RimLine, type Run, type Xyz } from '../rimRuns';
import { useForecast } from './forecast';

export type PickKind = 'face' | 'shell' | 'edge' | 'rim' | 'rim point' | 'brush';

export interface Picked {
    at: Xyz;
    radius?: number;
}

export interface Picking {
    kind: PickKind;
    /** What to do, while nothing is picked. */
    hint: string;
    /** Fewer than this are not enough. */
    least: number;
    points: Picked[];
    with: (points: Picked[]) => Action;
}

const xyz = (points: readonly (readonly number[])[]): Picked[] => points.map((at) => ({ at: at as Xyz }));
const bare = (points: Picked[]) => points.map((p) => p.at);
const dabs = (points: Picked[]) => points.map((p) => ({ near: p.at, radius: p.radius ?? 1 }));
type Dab = { near: readonly number[]; radius: number };
const fromDabs = (list: readonly Dab[]): Picked[] =>
    list.map((d) => ({ at: d.near as Xyz, radius: d.radius }));

const CLICK_FACES = 'Click faces in the viewport; click one again to take it back.';
const PAINT = 'Paint over the part in the viewport; turn the view with the right mouse button.';

/** A run is not chosen yet while it begins where it ends. */
const unchosen = (run: { from: readonly number[]; to: readonly number[] }) =>
    run.from.every((x, i) => x === run.to[i]);
const noRun = { from: [0, 0, 0] as Xyz, to: [0, 0, 0] as Xyz, through: [0, 0, 0] as Xyz };
export const bridgeOfRuns: Action = { kind: 'seal.bridge', from: noRun, to: noRun, shape: 'straight' };

function choice(what: unknown, withWhat: (what: never) => Action): Picking | null {
    const of = (typeof what === 'object' ? what : {}) as Record<string, never[]>;
    const make = (key: string, list: unknown) => withWhat({ [key]: list } as never);
    if (of.faces)
        return {
            kind: 'face',
            hint: CLICK_FACES,
            least: 1,
            points: xyz(of.faces),
            with: (p) => make('faces', bare(p)),
        };
    if (of.brush)
        return {
            kind: 'brush',
            hint: PAINT,
            least: 1,
            points: fromDabs(of.brush),
            with: (p) => make('brush', dabs(p)),
        };
    if (of.shells)
        return {
            kind: 'shell',
            hint: 'Click shells in the viewport.',
            least: 1,
            points: xyz(of.shells),
            with: (p) => make('shells', bare(p)),
        };
    if (of.picked)
        return {
            kind: 'face',
            hint: CLICK_FACES,
            least: 1,
            points: xyz(of.picked),
            with: (p) => make('picked', bare(p)),
        };
    return null;
}

export const usePicks = defineStore('picks', () => {
    const forecast = useForecast();
    /** Split points of a bridge between runs; those of a split cover stand in its parameters. */
    const splits = ref<Xyz[]>([]);
    const rimLines = shallowRef<readonly RimLine[]>([]);
    /** Whether clicks on a rim split it or choose its runs. */
    const stage = ref<'points' | 'runs'>('points');
    const brush = ref(0);

    const picking = computed<Picking | null>(() => {
        const a = forecast.draft;
        switch (a?.kind) {
            case 'seal.turn':
            case 'seal.smooth':
            case 'seal.lift_out':
            case 'seal.re_skin':
                return choice(a.what, (what) => ({ ...a, what }) as Action);
            case 'seal.merge_faces':
                return choice(a.faces, (faces) => ({ ...a, faces }) as Action);
            case 'seal.drop':
                return {
                    kind: 'shell',
                    hint: 'Or click loose shells in the viewport.',
                    least: 0,
                    points: xyz(a.shells ?? []),
                    with: (p) => ({ ...a, shells: bare(p) }),
                };
            case 'seal.fill_outline': {
                const { outline } = a;
                if (!('edges' in outline)) return null;
                return {
                    kind: 'edge',
                    hint: 'Click edges in the viewport until they close to an outline.',
                    least: 1,
                    points: xyz(outline.edges),
                    with: (p) => ({ ...a, outline: { edges: bare(p) } }),
                };
            }
            case 'seal.cover_runs':
                return {
                    kind: 'rim point',
                    hint: 'Click two or more points of a rim.',
                    least: 2,
                    points: xyz(a.at),
                    with: (p) => ({ ...a, at: bare(p), runs: 'all' }),
                };
            case 'seal.bridge':
                if (!('through' in a.from)) return null;
                return {
                    kind: 'rim point',
                    hint: 'Click the points where the runs begin and end, then choose two runs.',
                    least: 0,
                    points: xyz(splits.value),
                    with: (p) => {
                        splits.value = bare(p);
                        return { ...a, from: noRun, to: noRun };
                    },
                };
            default:
                return null;
        }
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
        if (action.kind === 'seal.bridge' && 'through' in action.from && 'through' in action.to) {
            if (runs.value.length < 2) return 'Click the points where the runs begin and end.';
            if (unchosen(action.from) || unchosen(action.to)) return 'Choose the two runs to be bridged.';
        }
        if ('with' in action && !action.with.length) return 'Choose the other parts.';
        return null;
    }

    function set(points: Picked[]) {
        const now = picking.value;
        if (now) change(now.with(points));
    }

    /** Changes the considered step; its forecast follows when nothing is missing any more. */
    function change(action: Action) {
        forecast.draft = action;
        const lacks = missing(action);
        if (lacks) forecast.wait();
        else void forecast.consider(forecast.title, action);
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
        },
    );

    return {
        picking,
        brush,
        stage,
        rimLines,
        runs,
        chosenRuns,
        missing,
        start,
        set,
        change,
        toggle,
        toggleRun,
    };
});
