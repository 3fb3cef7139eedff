import type { Action } from '../../../api/client';
import type { Xyz } from '../../../rimRuns';
import { xyz, type Picked, type Picking } from '../../picking/pickings';

type Bore = Extract<Action, { kind: 'fasten.bore' }>;
const atOf = (s: readonly number[] | { at: readonly number[] }) => ('diameter' in s ? s.at : s) as Xyz;

/** The places of bores: all of them, or what a row, ring or grid is laid out by. */
export function picking(a: Bore): Picking {
    const { places } = a;
    // Places follow a face when all of them were picked on it.
    const on = (p: Picked[]) => {
        const known = p.flatMap((x) => x.face ?? []);
        if (!known.length) return p.length ? a.face : null;
        return known.every((f) => f.face === known[0]!.face) ? known[0]! : null;
    };
    const made = (p: Picked[], places: Bore['places']): Action => ({ ...a, places, face: on(p) });
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

export function missing({ form }: Bore): string | null {
    const size = 'threaded' in form ? form.threaded.thread.size : 'tapped' in form ? form.tapped.size : 'any';
    return size ? null : 'Choose the thread.';
}
