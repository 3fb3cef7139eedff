// The tools of Seal, each with the step it begins with for a part.
import type { Action, Examination } from './api/client';

export interface Tool {
    key: string;
    name: string;
    hint: string;
    /** Whether it can be begun on a part like this. */
    fits?: (of: Examination | null) => boolean;
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
        hint: 'Close openings flat, taut or domed',
        action: () => ({ kind: 'seal.cover_rim', rims: 'all', style: 'taut' }),
    },
    {
        key: 'bridge',
        name: 'Bridge rims',
        hint: 'Join two rims by a band',
        fits: (of) => (of?.rims.filter((r) => r.closed).length ?? 0) >= 2,
        action: (of) => {
            const [from, to] = of!.rims.filter((r) => r.closed).map((r) => r.pick);
            return { kind: 'seal.bridge', from: from!, to: to! };
        },
    },
    {
        key: 're_skin',
        name: 'Re-skin',
        hint: 'Take tangles out and cover the place anew',
        fits: (of) => !!of?.tangles.length,
        action: () => ({ kind: 'seal.re_skin', what: 'tangles', rings: 1 }),
    },
    {
        key: 'lift_out',
        name: 'Lift out',
        hint: 'Take tangles out and leave a clean border',
        fits: (of) => !!of?.tangles.length,
        action: () => ({ kind: 'seal.lift_out', what: 'tangles', rings: 1 }),
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

/** The tools that can be begun on a part. */
export const toolsFor = (of: Examination | null) => tools.filter((t) => t.fits?.(of) ?? true);
