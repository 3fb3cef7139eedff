import type { Action } from '../../../api/client';
import { bare, xyz, type Picking } from '../../picking/pickings';

/** The points at which a rim is split. */
export const picking = (a: Extract<Action, { kind: 'seal.cover_runs' }>): Picking => ({
    kind: 'rim point',
    hint: 'Click two or more points of a rim.',
    least: 2,
    points: xyz(a.at),
    with: (p) => ({ ...a, at: bare(p), runs: 'all' }),
});
