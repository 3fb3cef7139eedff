import type { Action } from '../../../api/client';

type Emboss = Extract<Action, { kind: 'shape.emboss' }>;

export const missing = (a: Emboss) =>
    !a.profile ? 'Choose the profile that is laid on.' : !a.face ? 'Click the face it is laid onto.' : null;
