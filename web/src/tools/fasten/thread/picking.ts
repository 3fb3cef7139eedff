import type { Action } from '../../../api/client';

export const missing = (a: Extract<Action, { kind: 'fasten.thread' }>): string | null =>
    a.thread.size ? null : 'Choose the thread.';
