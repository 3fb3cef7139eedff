// Radii that runs of edges have of their own: one each, or several along one.
import { Line3, Vector3 } from 'three';
import type { Schemas } from '../../../api/client';
import type { Xyz } from '../../../rimRuns';

type Also = Schemas['RoundedToo'];
export type RadiusAt = Schemas['RadiusAt'];

const isOf = (at: Xyz) => (entry: Also) =>
    'edges' in entry.on && JSON.stringify(entry.on.edges) === JSON.stringify([at]);

/** The list with another radius for the run with this place in its middle; without it where there is none. */
export function withOwn(also: readonly Also[], at: Xyz, radius: number | null): Also[] {
    const others = also.filter((entry) => !isOf(at)(entry));
    return radius === null ? others : [...others, { on: { edges: [at] }, radius }];
}

/** The list with these radii along the run with this place in its middle; without it where there are none. */
export function withAlong(also: readonly Also[], at: Xyz, along: RadiusAt[]): Also[] {
    const [first] = along;
    if (!first) return withOwn(also, at, null);
    return [...withOwn(also, at, null), { on: { edges: [at] }, radius: first.radius, along }];
}

/** The radii along the run with this place in its middle. */
export const alongOf = (also: readonly Also[], at: Xyz): RadiusAt[] => also.find(isOf(at))?.along ?? [];

const pieces = (line: readonly Xyz[]) =>
    line.slice(1).map((to, n) => new Line3(new Vector3(...(line[n] ?? to)), new Vector3(...to)));

/** The place at a share of a line of evenly spaced places. */
export function placeAt(line: readonly Xyz[], share: number): Xyz {
    const all = pieces(line);
    const way = Math.min(Math.max(share, 0), 1) * all.length;
    const n = Math.min(Math.floor(way), all.length - 1);
    return all[n]?.at(way - n, new Vector3()).toArray() ?? [0, 0, 0];
}

/** At what share of such a line the place nearest to one is. */
export function shareOf(line: readonly Xyz[], at: Xyz): number {
    const place = new Vector3(...at);
    const all = pieces(line).map((piece, n) => {
        const t = piece.closestPointToPointParameter(place, true) || 0;
        return { off: piece.at(t, new Vector3()).distanceTo(place), way: n + t };
    });
    const best = all.reduce((a, b) => (b.off < a.off ? b : a), { off: Infinity, way: 0 });
    return best.way / all.length;
}

/** The radii in order along a line, each with its share. */
export const inOrder = (line: readonly Xyz[], along: readonly RadiusAt[]) =>
    along
        .map((one) => ({ share: shareOf(line, one.at as Xyz), radius: one.radius }))
        .sort((a, b) => a.share - b.share);

/** The radii with one more where the most is between two, as it is there already. */
export function withAnother(line: readonly Xyz[], along: readonly RadiusAt[], closed: boolean): RadiusAt[] {
    const rows = inOrder(line, along);
    const onward = rows
        .slice(1)
        .concat(closed ? rows.slice(0, 1).map((r) => ({ ...r, share: r.share + 1 })) : []);
    const gaps = onward.map((to, n) => ({ from: rows[n] ?? to, to }));
    const wide = ({ from, to }: (typeof gaps)[number]) => to.share - from.share;
    const [widest] = gaps.sort((a, b) => wide(b) - wide(a));
    if (!widest) return [...along];
    const { from, to } = widest;
    return [
        ...along,
        { at: placeAt(line, ((from.share + to.share) / 2) % 1), radius: (from.radius + to.radius) / 2 },
    ];
}
