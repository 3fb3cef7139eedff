// What can be picked for each kind of step, and how the picks stand in its parameters.
import type { Action, FaceAnchor } from '../api/client';
import type { Xyz } from '../rimRuns';

export type PickKind =
    | 'face'
    | 'shell'
    | 'edge'
    | 'rim'
    | 'rim point'
    | 'brush'
    /** A point of any part shown. */
    | 'point'
    /** A point of the plane of sight. */
    | 'sight'
    | 'chamber'
    /** A place on the part's surface, drawn to centres, corners and bores. */
    | 'spot';

export interface Picked {
    at: Xyz;
    radius?: number;
    /** The way the surface faces there, or the direction of sight. */
    normal?: Xyz;
    /** Where it was seen from. */
    seen?: Xyz;
    /** The part and face it lies on. */
    on?: { part: number; face: number };
    /** The picked face as it is kept. */
    face?: FaceAnchor;
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
type FacePick = FaceAnchor | readonly number[];
const isAnchor = (pick: FacePick): pick is FaceAnchor => 'at' in pick && typeof pick.at === 'object';
const fromFaces = (list: readonly FacePick[]): Picked[] =>
    list.map((f) => (isAnchor(f) ? { at: f.at as Xyz, face: f } : { at: f as unknown as Xyz }));
const faces = (points: Picked[]) => points.map((p) => p.face ?? p.at);
const dabs = (points: Picked[]) => points.map((p) => ({ near: p.at, radius: p.radius ?? 1 }));
type Dab = { near: readonly number[]; radius: number };
const fromDabs = (list: readonly Dab[]): Picked[] =>
    list.map((d) => ({ at: d.near as Xyz, radius: d.radius }));

const CLICK_FACES = 'Click faces in the viewport; click one again to take it back.';
const PAINT = 'Paint over the part in the viewport; turn the view with the right mouse button.';

/** A run is not chosen yet while it begins where it ends. */
export const unchosen = (run: { from: readonly number[]; to: readonly number[] }) =>
    run.from.every((x, i) => x === run.to[i]);
export const noRun = { from: [0, 0, 0] as Xyz, to: [0, 0, 0] as Xyz, through: [0, 0, 0] as Xyz };

function choice(what: unknown, withWhat: (what: never) => Action): Picking | null {
    const of = (typeof what === 'object' ? what : {}) as Record<string, never[]>;
    const make = (key: string, list: unknown) => withWhat({ [key]: list } as never);
    if (of.faces)
        return {
            kind: 'face',
            hint: CLICK_FACES,
            least: 1,
            points: fromFaces(of.faces),
            with: (p) => make('faces', faces(p)),
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

type BoreStep = Extract<Action, { kind: 'fasten.bore' }>;
const atOf = (s: readonly number[] | { at: readonly number[] }) => ('diameter' in s ? s.at : s) as Xyz;
/** The places of bores: all of them, or what a row, ring or grid is laid out by. */
function spots(a: BoreStep): Picking {
    const { places } = a;
    // Places follow a face when all of them were picked on it.
    const on = (p: Picked[]) => {
        const known = p.flatMap((x) => x.face ?? []);
        if (!known.length) return p.length ? a.face : null;
        return known.every((f) => f.face === known[0]!.face) ? known[0]! : null;
    };
    const made = (p: Picked[], places: BoreStep['places']): Action => ({ ...a, places, face: on(p) });
    const asked = { kind: 'spot' as const };
    if ('points' in places)
        return {
            ...asked,
            hint: 'Click where they go; click a place again to take it back.',
            least: 1,
            points: places.points.map((s) => ({ at: atOf(s) })),
            with: (p) => {
                const held = places.points;
                const kept = (x: Picked) => held.find((s) => atOf(s).every((v, i) => v === x.at[i])) ?? x.at;
                return made(p, { points: p.map(kept) });
            },
        };
    if ('row' in places) {
        const { from, to } = places.row;
        const same = from.every((x, i) => x === to[i]);
        return {
            ...asked,
            hint: 'Click the first place and the last.',
            least: 2,
            points: same ? (from.some((x) => x) ? [{ at: from as Xyz }] : []) : xyz([from, to]),
            with: (p) => {
                const [first, last] = [p[0]?.at ?? [0, 0, 0], p.at(-1)?.at ?? p[0]?.at ?? [0, 0, 0]];
                return made(p, { row: { ...places.row, from: first as Xyz, to: last as Xyz } });
            },
        };
    }
    const [name, centre] = 'ring' in places ? ['ring', places.ring.centre] : ['grid', places.grid.centre];
    return {
        ...asked,
        hint: `Click the middle of the ${name}.`,
        least: 1,
        points: a.face ? [{ at: centre as Xyz }] : [],
        with: (p) => {
            const at = (p.at(-1)?.at ?? centre) as Xyz;
            return made(
                p.slice(-1),
                'ring' in places
                    ? { ring: { ...places.ring, centre: at } }
                    : { grid: { ...places.grid, centre: at } },
            );
        },
    };
}

/** What is picked for a step. The split points of a bridge between runs are kept beside it. */
export function pickingOf(
    a: Action,
    ready: boolean,
    splits: readonly Xyz[],
    split: (points: Xyz[]) => void,
): Picking | null {
    switch (a.kind) {
        case 'shape.chambers':
            return ready ? { kind: 'chamber', hint: '', least: 0, points: [], with: () => a } : null;
        case 'shape.saw': {
            if (!('line' in a.by)) return null;
            const { points, along } = a.by.line;
            return {
                kind: 'sight',
                hint: 'Click two or more points in the viewport; the line is swept along your view.',
                least: 2,
                points: xyz(points),
                with: (p) => ({
                    ...a,
                    by: { line: { points: bare(p), along: (p.length && p[0]!.normal) || along } },
                }),
            };
        }
        case 'shape.repeat':
            if (!('points' in a.copies)) return null;
            return {
                kind: 'point',
                hint: 'Click a point of the part, then where that point of each copy goes.',
                least: 2,
                points: xyz(a.copies.points.points),
                with: (p) => ({ ...a, copies: { points: { points: bare(p) } } }),
            };
        case 'fasten.bore':
            return spots(a);
        case 'fasten.thread':
            return {
                kind: 'face',
                hint: 'Click the walls of bores, or pins.',
                least: 1,
                points: fromFaces(a.faces),
                with: (p) => ({ ...a, faces: faces(p) }) as Action,
            };
        case 'fasten.plug':
        case 'fasten.rebore':
            return {
                kind: 'face',
                hint: 'Click the wall of the bore.',
                least: 1,
                points: a.wall ? fromFaces([a.wall]) : [],
                with: (p) => ({ ...a, wall: faces(p).at(-1) ?? null }) as unknown as Action,
            };
        case 'wall.thicken':
        case 'wall.offset_sheet':
            return {
                kind: 'face',
                hint: 'All faces; click some to take only those.',
                least: 0,
                points: fromFaces(a.faces ?? []),
                with: (p) => ({ ...a, faces: faces(p) }) as Action,
            };
        case 'wall.shell':
            return {
                kind: 'face',
                hint: 'Click the faces that are left open.',
                least: 1,
                points: fromFaces(a.open),
                with: (p) => ({ ...a, open: faces(p) }) as Action,
            };
        case 'wall.even':
            return {
                kind: 'face',
                hint: 'Click the roundings that stay.',
                least: 1,
                points: fromFaces(a.keep),
                with: (p) => ({ ...a, keep: faces(p) }) as Action,
            };
        case 'wall.coat':
            return {
                kind: 'face',
                hint: 'Click faces that stay bare.',
                least: 0,
                points: fromFaces(a.bare ?? []),
                with: (p) => ({ ...a, bare: faces(p) }) as Action,
            };
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
                points: xyz(splits),
                with: (p) => {
                    split(bare(p));
                    return { ...a, from: noRun, to: noRun };
                },
            };
        default:
            return null;
    }
}
