// Findings in groups of one kind, each with one remedy for all of it where there is one.
import type { Action, Examination, Finding } from './api/client';
import { whole } from './format';

export interface FindingGroup {
    kind: Finding['kind'];
    findings: Finding[];
    /** Whether there are too many to be listed without being asked for. */
    many: boolean;
    title: string;
    forAll: { label: string; action: Action } | null;
}

/** More of a kind than this are folded away behind one row. */
const MANY = 12;

/** The examination lists so many of a kind one by one. */
const MOST_LISTED = 5000;

const names: Partial<Record<Finding['kind'], string>> = {
    gap: 'gaps',
    partly_shared: 'partly shared edges',
    needle_rim: 'needle rims',
    stray: 'stray shells',
    t_junction: 'T-junctions',
    rim: 'rims',
    tangle: 'tangles',
    touch_point: 'points where surfaces touch',
    inside_out: 'shells inside out',
    void: 'trapped voids',
    thin_wall: 'thin walls',
    thin_pin: 'thin pins',
    narrow_slot: 'narrow slots',
    inner_corner: 'inner corners',
    feather: 'feather edges',
    uneven_rounding: 'uneven roundings',
    upright_corner: 'upright outer corners',
    undrained: 'voids without a drain',
    overlap: 'overlaps',
    too_close: 'close places',
};

/** What findings of a kind are called. */
export const kindName = (kind: Finding['kind']) => names[kind] ?? 'findings';

/** The findings in their order, gathered by kind. */
export function groupFindings(findings: readonly Finding[], of: Examination | null): FindingGroup[] {
    const groups = new Map<Finding['kind'], Finding[]>();
    for (const f of findings) {
        const list = groups.get(f.kind);
        if (list) list.push(f);
        else groups.set(f.kind, [f]);
    }
    return [...groups].map(([kind, list]) => ({
        kind,
        findings: list,
        many: list.length > MANY,
        title: `${whole(list.length)} ${names[kind] ?? 'findings'}${list.length >= MOST_LISTED ? ', and more' : ''}`,
        forAll: remedyForAll(kind, of),
    }));
}

function remedyForAll(kind: Finding['kind'], of: Examination | null): FindingGroup['forAll'] {
    switch (kind) {
        case 'gap':
        case 'partly_shared': {
            const reach = Math.max(0, ...(of?.gaps.map((g) => g.reach) ?? []));
            return reach > 0
                ? { label: `Close all up to ${reach} mm`, action: { kind: 'seal.close_gaps', reach } }
                : null;
        }
        case 'rim':
            return {
                label: 'Cover all taut',
                action: { kind: 'seal.cover_rim', rims: 'all', style: 'taut' },
            };
        case 'tangle':
            return { label: 'Re-skin all', action: { kind: 'seal.re_skin', what: 'tangles', rings: 1 } };
        default:
            return null;
    }
}
