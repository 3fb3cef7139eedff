import type { Action } from '../../../api/client';
import type { Beside } from '../../own';
import { bare, xyz, type Picking } from '../../picking/pickings';
import { noRun, unchosen } from '../runs';

type Bridge = Extract<Action, { kind: 'seal.bridge' }>;

/** Split points of rims; they are kept beside the step, which names the runs. */
export function picking(a: Bridge, { splits, split }: Beside): Picking | null {
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
}

export const missing = (a: Bridge): string | null =>
    'through' in a.from && 'through' in a.to && (unchosen(a.from) || unchosen(a.to))
        ? 'Choose the two runs to be bridged.'
        : null;
