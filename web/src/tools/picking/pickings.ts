// What can be picked for a step, and how the picks stand in its parameters.
import type { Action, FaceAnchor } from '../../api/client';
import type { Xyz } from '../../rimRuns';
import {
    chosen,
    counts,
    fieldOf,
    fieldsOf,
    valueAt,
    withAt,
    type Asked,
    type Described,
    type Field,
} from '../fields/describe';

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

export const xyz = (points: readonly (readonly number[])[]): Picked[] =>
    points.map((at) => ({ at: at as Xyz }));
export const bare = (points: Picked[]) => points.map((p) => p.at);
export type FacePick = FaceAnchor | readonly number[];
type Dab = { near: readonly number[]; radius: number };
const isAnchor = (pick: FacePick): pick is FaceAnchor => 'at' in pick && typeof pick.at === 'object';

interface Way {
    kind: PickKind;
    hint: string;
    read: (held: readonly never[]) => Picked[];
    write: (points: Picked[]) => unknown[];
}
const points = { read: (held: readonly never[]) => xyz(held as readonly Xyz[]), write: bare };
/** How each kind of pick is made, and how it stands in a step. */
const ways: Record<Exclude<Asked, 'rim'>, Way> = {
    face: {
        kind: 'face',
        hint: 'Click faces in the viewport; click one again to take it back.',
        read: (held: readonly FacePick[]) =>
            held.map((f) => (isAnchor(f) ? { at: f.at as Xyz, face: f } : { at: f as unknown as Xyz })),
        write: (p) => p.map((one) => one.face ?? one.at),
    },
    shells: { kind: 'shell', hint: 'Click shells in the viewport.', ...points },
    edges: { kind: 'edge', hint: 'Click edges in the viewport.', ...points },
    points: { kind: 'point', hint: 'Click points of the part.', ...points },
    brush: {
        kind: 'brush',
        hint: 'Paint over the part in the viewport; turn the view with the right mouse button.',
        read: (held: readonly Dab[]) => held.map((d) => ({ at: d.near as Xyz, radius: d.radius })),
        write: (p) => p.map((one) => ({ near: one.at, radius: one.radius ?? 1 })),
    },
};

/** The parameters of a step as it stands, with what comes with each choice. */
export function openFields(described: Described | undefined, action: Action): Field[] {
    const open = (f: Field): Field[] => {
        if (!counts(f, action)) return [];
        if (f.kind === 'group') return fieldsOf(f.described, f.path).flatMap(open);
        const choice = f.kind === 'choice' ? chosen(f, valueAt(action, f.path)) : undefined;
        return choice?.with
            ? [f, ...open(fieldOf(choice.value, [...f.path, choice.value], choice.with))]
            : [f];
    };
    return fieldsOf(described).flatMap(open);
}

/** What is picked for a step, as its description says. */
export function pickingOf(described: Described | undefined, action: Action): Picking | null {
    const found = openFields(described, action).find((f) => f.kind === 'picks' && f.asked !== 'rim');
    if (!found?.asked || found.asked === 'rim') return null;
    const [way, held] = [ways[found.asked], valueAt(action, found.path)];
    const written = (p: Picked[]) => (found.many ? way.write(p) : (way.write(p).at(-1) ?? null));
    // What comes with a choice is what is asked for.
    const within = found.path.length > 1 || !found.many;
    return {
        kind: way.kind,
        hint: found.described.hint ?? way.hint,
        least: found.described.least ?? (within ? 1 : 0),
        points: way.read((found.many ? (held ?? []) : held ? [held] : []) as never[]),
        with: (p) => withAt(action, found.path, written(p)),
    };
}

/** Other parts that are to be named and are not yet. */
export function lacksParts(described: Described | undefined, action: Action): boolean {
    const lacks = (f: Field) => {
        const held = valueAt(action, f.path);
        if (f.kind === 'part') return !f.optional && !held;
        return (
            f.kind === 'parts' && ((held as unknown[] | undefined) ?? []).length < (f.described.least ?? 0)
        );
    };
    return openFields(described, action).some(lacks);
}
