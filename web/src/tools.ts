// The tools of Seal, each with the step it begins with for a part.
import type { Action, Examination } from './api/client';

export interface Tool {
    key: string;
    name: string;
    hint: string;
    action: (of: Examination | null) => Action;
}

/** A reach that closes the widest gap found, or a tenth of a millimetre. */
const reachFor = (of: Examination | null) => Math.max(0, ...(of?.gaps.map((g) => g.reach) ?? [])) || 0.1;

export const tools: Tool[] = [
    {
        key: 'plan',
        name: 'Seal plan',
        hint: 'Choose and apply remedies by rules, in a safe order',
        action: () => ({ kind: 'seal.plan' }),
    },
    {
        key: 'close_gaps',
        name: 'Close gaps',
        hint: 'Join naked edges that face each other within a reach',
        action: (of) => ({ kind: 'seal.close_gaps', reach: reachFor(of) }),
    },
    {
        key: 'cover_rim',
        name: 'Cover rims',
        hint: 'Close openings flat or taut',
        action: () => ({ kind: 'seal.cover_rim', rims: 'all', style: 'taut' }),
    },
    {
        key: 'agree_windings',
        name: 'Agree windings',
        hint: 'Make neighbours agree about the outside',
        action: () => ({ kind: 'seal.agree_windings' }),
    },
    {
        key: 'turn_outward',
        name: 'Turn outward',
        hint: 'Bodies outward, voids inward',
        action: () => ({ kind: 'seal.turn_outward' }),
    },
    {
        key: 'drop',
        name: 'Drop',
        hint: 'Duplicates, triangles without area, specks',
        action: () => ({ kind: 'seal.drop', duplicates: true, degenerate: true, specks_below: null }),
    },
];
