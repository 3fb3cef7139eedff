// What single tools bring with them: fields of their own, what a click means. A tool has a folder `<station>/<tool>/` here only where
// drawing its parameters as the core describes them does not do.
import type { Component } from 'vue';
import type { Action } from '../api/client';
import type { Xyz } from '../rimRuns';
import type { Picking } from './picking/pickings';

/** What picking may hang on beside the step itself. */
export interface Beside {
    /** Whether there is a forecast of it. */
    ready: boolean;
    /** Split points of rims that stand in no parameter. */
    splits: readonly Xyz[];
    split: (points: Xyz[]) => void;
}

interface Own {
    /** What is picked for a step; null for nothing. */
    picking?: (action: never, beside: Beside) => Picking | null;
    /** What is missing before it can be forecast, in words. */
    missing?: (action: never) => string | null;
}

const fields = import.meta.glob<Component>('./*/*/OwnFields.vue', { eager: true, import: 'default' });
const picking = import.meta.glob<Own>('./*/*/picking.ts', { eager: true });
const folder = (kind: string) => `./${kind.replace('.', '/')}`;

/** The fields a tool brings with it. */
export const ownFields = (action: Action): Component | undefined =>
    fields[`${folder(action.kind)}/OwnFields.vue`];

/** What a click means for it; undefined where its description says all. */
export const ownPicking = (action: Action, beside: Beside): Picking | null | undefined =>
    picking[`${folder(action.kind)}/picking.ts`]?.picking?.(action as never, beside);

export const ownMissing = (action: Action): string | null =>
    picking[`${folder(action.kind)}/picking.ts`]?.missing?.(action as never) ?? null;
