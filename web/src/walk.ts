// What is said and looked for at each stop of the first walk.
import type { Part } from './api/client';
import type { StationKey } from './text';

interface Seen {
    part?: Part;
    finding: boolean;
    bored: boolean;
    released: boolean;
}

export interface Stop {
    station: StationKey;
    name: string;
    says: string;
    /** What to do there, where something is. */
    does?: string;
    done: (seen: Seen) => boolean;
}

export const stops: readonly Stop[] = [
    {
        station: 'bring',
        name: 'A file came in',
        says: 'This is a porthole ring as a surface model: it looks whole, but nothing could be cast from it yet. Drag to turn it, roll to come nearer.',
        done: () => true,
    },
    {
        station: 'seal',
        name: 'See what is wrong',
        says: 'Striped lines are rims: there the surface is open. What is wrong stands in the list, the worst first.',
        does: 'Click a finding: the view flies to it.',
        done: (s) => s.finding || s.part?.figures.state === 'sealed',
    },
    {
        station: 'seal',
        name: 'Seal it',
        says: 'The plan chooses a remedy for each finding. Nothing is done before you have seen what it would do.',
        does: 'Take up Seal plan, look at its rows, apply.',
        done: (s) => s.part?.figures.state === 'sealed',
    },
    {
        station: 'wall',
        name: 'Is it thick enough?',
        says: 'Colours show how thick each place is. What is thinner than the way of making asks for is hatched, and listed.',
        done: () => true,
    },
    {
        station: 'weigh',
        name: 'What does it weigh?',
        says: 'A solid has a volume; with a material it has a mass, and what it costs.',
        does: 'Choose a material, and keep it.',
        done: (s) => s.part?.mass != null,
    },
    {
        station: 'fasten',
        name: 'Bore it',
        says: 'Bores know screws, inserts and what the process adds to them.',
        does: 'Take up Bores, click a place on a flat face, apply.',
        done: (s) => s.bored,
    },
    {
        station: 'release',
        name: 'Hand it out',
        says: 'The file is written, read back from its own bytes and proved again. What cannot be proved is not handed out.',
        does: 'Prove and release.',
        done: (s) => s.released,
    },
];
