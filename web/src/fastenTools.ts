// The tools of Fasten, each with the step it begins with.
import type { Action, Examination } from './api/client';
import { useFasten } from './stores/fasten';
import { useWalls } from './stores/walls';
import type { Tool } from './tools';

const sealed = (of: Examination | null) => of?.figures.state === 'sealed';
const tool = (key: string, name: string, hint: string, action: () => Action, owns?: Tool['owns']): Tool => ({
    key,
    station: 'fasten',
    name,
    hint,
    action,
    owns,
    fits: key === 'stud' ? undefined : sealed,
});

type Bore = Extract<Action, { kind: 'fasten.bore' }>;
const bore = (form: Bore['form']): Action => ({
    kind: 'fasten.bore',
    places: { points: [] },
    face: null,
    form,
    reach: 'all',
    allowance: 'threaded' in form ? 0 : (useFasten().allowances?.bore ?? 0),
    chord: useFasten().chord,
    least_wall: useWalls().asks?.wall ?? null,
});
const isThreaded = (a: Action) => a.kind === 'fasten.bore' && 'threaded' in a.form;

export const fastenTools: Tool[] = [
    tool(
        'thread_bores',
        'Threaded bores',
        'Bore, lead-in, thread and run-out at any number of places',
        () => bore({ threaded: { thread: useFasten().thread(), marked: true } }),
        isThreaded,
    ),
    tool(
        'bores',
        'Bores',
        'Plain, countersunk, for screws, inserts, slots and openings, many at once',
        () => bore({ plain: { width: 5 } }),
        (a) => a.kind === 'fasten.bore' && !isThreaded(a),
    ),
    tool('thread', 'Thread a wall', 'A bore or a pin that is there gets its thread', () => ({
        kind: 'fasten.thread',
        faces: [],
        thread: useFasten().thread(),
        lead_in: true,
        marked: true,
        chord: useFasten().chord,
    })),
    tool('stud', 'Stud, ring or cap', 'A thread by itself, as a part of its own', () => ({
        kind: 'fasten.stud',
        thread: { ...useFasten().thread(), allowance: { radial: 0, axial: 0 } },
        length: 20,
        at: useFasten().beside(),
        along: [0, 0, 1],
        marked: true,
        chord: useFasten().chord,
    })),
    tool(
        'plug',
        'Plug',
        'Closes a bore again, with its thread and heads',
        () => ({ kind: 'fasten.plug', wall: null }) as unknown as Action,
    ),
    tool(
        'rebore',
        'Re-bore',
        'Gives a bore another diameter in place',
        () =>
            ({
                kind: 'fasten.rebore',
                wall: null,
                diameter: 5,
                chord: useFasten().chord,
                least_wall: useWalls().asks?.wall ?? null,
            }) as unknown as Action,
    ),
];
