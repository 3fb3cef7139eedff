import type { Action } from '../../../api/client';

export const missing = (a: Extract<Action, { kind: 'fasten.stud' }>): string | null =>
    a.thread.size ? null : 'Choose the thread.';
