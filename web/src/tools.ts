// The tools of Seal, each with the step it begins with for a part.
import type { Action, Examination } from './api/client';
import { fastenTools } from './fastenTools';
import { shapeTools } from './shapeTools';
import { wallTools } from './wallTools';
import { weighTools } from './weighTools';
import { bridgeOfRuns } from './stores/picks';
import type { StationKey } from './text';

export interface Tool {
    key: string;
    /** Where it stands; Seal when absent. */
    station?: StationKey;
    name: string;
    hint: string;
    /** Whether it can be begun on a part like this. */
    fits?: (of: Examination | null) => boolean;
    action: (of: Examination | null) => Action;
    /** Whether a step is this tool's, where its kind does not tell. */
    owns?: (action: Action) => boolean;
}

/** A reach that closes the widest gap found, or a tenth of a millimetre. */
const reachFor = (of: Examination | null) => Math.max(0, ...(of?.gaps.map((g) => g.reach) ?? [])) || 0.1;
/** A share of the part's diagonal, to one digit. */
const shareOf = (of: Examination | null, share: number) =>
    Number((Math.hypot(...(of?.figures.size ?? [100])) * share).toPrecision(1));
const closedRims = (of: Examination | null) => of?.rims.filter((r) => r.closed) ?? [];
const open = (of: Examination | null) => closedRims(of).length > 0;

export const tools: Tool[] = [
    {
        key: 'plan',
        name: 'Seal plan',
        hint: 'Choose remedies by rules, in a safe order; strike out what you do not want',
        action: () => ({ kind: 'seal.plan' }),
    },
    {
        key: 'merge_points',
        name: 'Merge points',
        hint: 'Corners that nearly coincide become one',
        fits: open,
        action: (of) => ({
            kind: 'seal.merge_points',
            within: of?.corners?.suggested ?? shareOf(of, 1e-5),
        }),
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
        key: 'cover_runs',
        name: 'Split a rim',
        hint: 'Chords between picked points; cover the runs',
        fits: open,
        action: () => ({ kind: 'seal.cover_runs', at: [], runs: 'all', style: 'taut' }),
    },
    {
        key: 'bridge',
        name: 'Bridge rims',
        hint: 'Join two rims by a band, straight, flat or tangent',
        fits: (of) => closedRims(of).length >= 2,
        action: (of) => {
            const [from, to] = closedRims(of).map((r) => r.pick);
            return { kind: 'seal.bridge', from: from!, to: to!, shape: 'straight' };
        },
    },
    {
        key: 'bridge_runs',
        name: 'Bridge runs',
        hint: 'Join two stretches of rims by a band',
        fits: open,
        action: () => bridgeOfRuns,
    },
    {
        key: 'fill_outline',
        name: 'Fill an outline',
        hint: 'A flat face from edges, a section or the silhouette',
        action: () => ({ kind: 'seal.fill_outline', outline: { edges: [] } }),
    },
    {
        key: 're_skin',
        name: 'Re-skin',
        hint: 'Take a place out and cover it anew, tangent to what is round it',
        action: (of) => ({
            kind: 'seal.re_skin',
            what: of?.tangles.length ? 'tangles' : { brush: [] },
            rings: 1,
        }),
    },
    {
        key: 'lift_out',
        name: 'Lift out',
        hint: 'Take tangles, faces or a brush stroke out and leave a clean border',
        action: (of) => ({
            kind: 'seal.lift_out',
            what: of?.tangles.length ? 'tangles' : { brush: [] },
            rings: of?.tangles.length ? 1 : 0,
        }),
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
        key: 'turn',
        name: 'Turn over',
        hint: 'The part, shells or faces, inside out',
        action: () => ({ kind: 'seal.turn', what: 'part' }),
    },
    {
        key: 'drop',
        name: 'Drop',
        hint: 'Duplicates, triangles without area, specks, picked shells',
        action: () => ({ kind: 'seal.drop', duplicates: true, degenerate: true, specks_below: null }),
    },
    {
        key: 'smooth',
        name: 'Smooth',
        hint: 'Even out bumps under a brush, on faces or everywhere; rims are held',
        action: () => ({ kind: 'seal.smooth', what: { brush: [] }, strength: 0.5, passes: 10 }),
    },
    {
        key: 'group_faces',
        name: 'Group faces',
        hint: 'Find planes, cylinders, cones, spheres and tori anew',
        action: () => ({ kind: 'seal.group_faces' }),
    },
    {
        key: 'merge_faces',
        name: 'Merge faces',
        hint: 'Faces on one surface become one, with fewer triangles',
        action: (of) => ({
            kind: 'seal.merge_faces',
            faces: 'all',
            tolerance: shareOf(of, 1e-4),
            simplify: true,
        }),
    },
    {
        key: 'pull_apart',
        name: 'Pull apart',
        hint: 'Each shell or face becomes a part of its own',
        action: () => ({ kind: 'seal.pull_apart', into: 'shells' }),
    },
    {
        key: 'join',
        name: 'Join parts',
        hint: 'Several parts become one, welded within reach',
        action: (of) => ({ kind: 'seal.join', with: [], reach: reachFor(of) }),
    },
    {
        key: 'find_inside',
        name: 'Find the inside',
        hint: 'Whatever comes in becomes the border between inside and outside',
        fits: (of) => of?.figures.state !== 'sealed',
        action: () => ({ kind: 'seal.find_inside' }),
    },
    {
        key: 'wrap',
        name: 'Wrap',
        hint: 'A watertight skin round what is beyond repair',
        action: (of) => ({ kind: 'seal.wrap', resolution: shareOf(of, 0.008) }),
    },
];

const all = [...tools, ...shapeTools, ...wallTools, ...fastenTools, ...weighTools];

/** The tools that can be begun on a part. */
export const toolsFor = (of: Examination | null, station?: StationKey) =>
    all.filter((t) => (t.fits?.(of) ?? true) && (!station || stationOf(t) === station));

export const stationOf = (tool: Tool): StationKey => tool.station ?? 'seal';

/** The tool a step belongs to. */
export function toolOf(action: Action): Tool | undefined {
    if (action.kind === 'seal.bridge' && 'through' in action.from)
        return tools.find((t) => t.key === 'bridge_runs');
    return all.find((t) => t.owns?.(action) ?? `${stationOf(t)}.${t.key}` === action.kind);
}
