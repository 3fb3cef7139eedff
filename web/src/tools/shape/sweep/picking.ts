import { lacksProfile } from '../../../board/lacksProfile';
import type { Action } from '../../../api/client';

type Sweep = Extract<Action, { kind: 'shape.sweep' }>;

export const missing = (a: Sweep) =>
    lacksProfile(a) ??
    ('profiles' in a.path && !a.path.profiles.parts.length ? 'Choose the profiles it runs along.' : null);
