import type { Action } from '../../../api/client';
import { bare, xyz, type Picking } from '../../picking/pickings';

type Saw = Extract<Action, { kind: 'shape.saw' }>;

/** The points of a line that is swept along the view. */
export function picking(a: Saw): Picking | null {
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

export const missing = (a: Saw): string | null =>
    'sheet' in a.by && !a.by.sheet ? 'Choose the part that is the sheet.' : null;
