// What an action may be asked.
import type { Action, Schemas } from './client';

/** Work on the mesh, of which what is lost may be kept. */
export const mayKeepLost = (action: Action | null | undefined): action is Schemas['Operation'] =>
    !!action && !['bring_in', 'keep', 'weigh.set_material'].includes(action.kind);
