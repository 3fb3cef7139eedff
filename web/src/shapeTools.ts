// The tools of Shape, each with the step it begins with for a part.
import type { Action, Examination } from './api/client';
import { middlePlane } from './planes';
import { useJob } from './stores/job';
import type { Tool } from './tools';

type Body = Extract<Action, { kind: 'shape.body' }>['body'];

/** A third of the part's size, to one digit. */
const third = (of: Examination | null) =>
    Number((Math.max(...(of?.figures.size ?? [30])) / 3).toPrecision(1)) || 10;
/** The middle of the part. */
const middle = (of: Examination | null) => {
    const { least, size } = of?.figures ?? { least: [0, 0, 0], size: [0, 0, 0] };
    return least.map((x, i) => Number((x + size[i]! / 2).toFixed(2))) as [number, number, number];
};
const body = (key: string, name: string, hint: string, make: (size: number) => Body): Tool => ({
    key,
    station: 'shape',
    name,
    hint,
    action: (of) => ({
        kind: 'shape.body',
        body: make(third(of)),
        at: middle(of),
        chord: useJob().job?.setup.chord ?? 0.02,
    }),
    owns: (a) => a.kind === 'shape.body' && key in a.body,
});

export const shapeTools: Tool[] = [
    {
        key: 'union',
        station: 'shape',
        name: 'Union',
        hint: 'Several solids become one',
        action: () => ({ kind: 'shape.union', with: [] }),
    },
    {
        key: 'difference',
        station: 'shape',
        name: 'Difference',
        hint: 'Other solids are taken away from this one',
        action: () => ({ kind: 'shape.difference', with: [] }),
    },
    {
        key: 'intersection',
        station: 'shape',
        name: 'Intersection',
        hint: 'Keep what solids have in common',
        action: () => ({ kind: 'shape.intersection', with: [] }),
    },
    {
        key: 'untangle',
        station: 'shape',
        name: 'Untangle',
        hint: 'A part that crosses itself becomes its outer boundary',
        fits: (of) => (of?.figures.tangles ?? 0) > 0,
        action: () => ({ kind: 'shape.untangle' }),
    },
    {
        key: 'saw',
        station: 'shape',
        name: 'Saw',
        hint: 'Cut by a plane, a sheet or a drawn line; pegs and sockets on request',
        action: (of) => ({
            kind: 'shape.saw',
            by: { plane: middlePlane(of?.figures ?? null) },
            keep: 'both',
        }),
    },
    {
        key: 'chambers',
        station: 'shape',
        name: 'Chambers',
        hint: 'The spaces that parts and planes enclose become parts',
        action: () => ({ kind: 'shape.chambers', with: [], planes: [] }),
    },
    {
        key: 'base',
        station: 'shape',
        name: 'Base',
        hint: 'Stands a terrain or relief on a floor, with a skirt from its border',
        fits: (of) => !!of?.rims.length,
        action: (of) => ({
            kind: 'shape.base',
            floor: { below: Number((Math.hypot(...(of?.figures.size ?? [100])) * 0.02).toPrecision(1)) },
        }),
    },
    {
        key: 'hull',
        station: 'shape',
        name: 'Hull',
        hint: 'A convex skin stretched over parts',
        action: () => ({ kind: 'shape.hull', with: [] }),
    },
    {
        key: 'place',
        station: 'shape',
        name: 'Place',
        hint: 'Move, turn, scale, lay on a face, set on the bench',
        action: () => ({ kind: 'shape.place', by: [0, 0, 0], to_bench: true }),
    },
    {
        key: 'mirror',
        station: 'shape',
        name: 'Mirror',
        hint: 'Across a plane, joined to itself or not',
        action: () => ({
            kind: 'shape.mirror',
            across: { at: [0, 0, 0], normal: [1, 0, 0] },
            join: true,
            reach: 0,
        }),
    },
    {
        key: 'repeat',
        station: 'shape',
        name: 'Repeat',
        hint: 'Copies in a row, a ring or at picked points',
        action: (of) => ({
            kind: 'shape.repeat',
            copies: { row: { step: [Math.ceil((of?.figures.size[0] ?? 10) * 1.1), 0, 0], count: 3 } },
        }),
    },
    body('block', 'Block', 'With sharp or round edges', (s) => ({
        block: { size: [s, s, s], rounded: 0 },
    })),
    body('drum', 'Drum', 'Cylinder, cone or tube', (s) => ({ drum: { diameter: s, height: s, bore: 0 } })),
    body('ball', 'Ball', 'By its diameter', (s) => ({ ball: { diameter: s } })),
    body('ring', 'Ring', 'A torus', (s) => ({ ring: { diameter: s, thickness: s / 4 } })),
    body('wedge', 'Wedge', 'A block that slopes down to its foot', (s) => ({ wedge: { size: [s, s, s] } })),
];
