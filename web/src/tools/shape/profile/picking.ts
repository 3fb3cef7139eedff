import type { Action } from '../../../api/client';

type DrawProfile = Extract<Action, { kind: 'shape.profile' }>;

/** What is missing before it can be forecast. */
export const missing = (a: DrawProfile) =>
    a.lines.length || a.carried?.length ? null : 'Draw a line, or write one into the list.';
