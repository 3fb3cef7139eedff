import type { Action } from '../../../api/client';
import type { Beside } from '../../own';
import type { Picking } from '../../picking/pickings';

/** Chambers are picked among those the forecast shows. */
export const picking = (a: Action, { ready }: Beside): Picking | null =>
    ready ? { kind: 'chamber', hint: '', least: 0, points: [], with: () => a } : null;
