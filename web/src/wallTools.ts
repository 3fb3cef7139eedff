// The tools of Wall, each with the step it begins with for a part.
import type { Action, Examination } from './api/client';
import { useWalls } from './stores/walls';
import type { Tool } from './tools';

/** A wall to begin with: twice the least of the process. */
const wall = () => Number(((useWalls().least ?? 1) * 2).toPrecision(2));
const sealed = (of: Examination | null) => of?.figures.state === 'sealed';
const closed = (of: Examination | null) => of?.figures.naked_edges === 0;
const tool = (
    key: string,
    name: string,
    hint: string,
    action: (of: Examination | null) => Action,
    fits?: Tool['fits'],
): Tool => ({ key, station: 'wall', name, hint, action, fits });

export const wallTools: Tool[] = [
    tool('thicken', 'Thicken', 'A sheet becomes a wall, to the outside, the inside or both', () => ({
        kind: 'wall.thicken',
        outward: wall(),
        inward: 0,
        rims: 'square',
        corners: 'sharp',
    })),
    tool(
        'hollow',
        'Hollow',
        'A solid gets a void, with drains through the wall',
        () => ({ kind: 'wall.hollow', wall: wall(), corners: 'sharp' }),
        sealed,
    ),
    tool(
        'shell',
        'Shell',
        'A solid becomes a wall with picked faces open',
        () => ({ kind: 'wall.shell', wall: wall(), open: [], corners: 'sharp' }),
        sealed,
    ),
    tool(
        'even',
        'Even at roundings',
        'The wall along picked roundings is made as thick as beside them',
        () => ({ kind: 'wall.even', wall: wall() / 2, keep: [] }),
        sealed,
    ),
    tool(
        'coat',
        'Coat',
        'An outer layer as a part of its own; picked faces stay bare',
        () => ({ kind: 'wall.coat', thickness: 0.1, corners: 'sharp' }),
        sealed,
    ),
    tool(
        'grow',
        'Grow or shrink',
        'The whole solid by a distance; less a core on request',
        () => ({ kind: 'wall.grow', by: wall(), corners: 'sharp' }),
        closed,
    ),
    tool('offset_sheet', 'Sheet at a distance', 'From picked faces: sleeves, gaskets, liners', () => ({
        kind: 'wall.offset_sheet',
        distance: 0.3,
        faces: [],
        corners: 'sharp',
    })),
];
