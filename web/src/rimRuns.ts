// Rims as lines: where along them a place is, what a pick snaps to, and the runs between split points.
export type Xyz = [number, number, number];

export interface RimLine {
    name: string;
    /** Points in order; a closed rim comes back to its first. */
    points: Xyz[];
}

/** A stretch of a rim between two split points. */
export interface Run {
    name: string;
    rim: string;
    from: Xyz;
    to: Xyz;
    /** A point on the way. */
    through: Xyz;
    line: Xyz[];
}

export type Snap = 'corner' | 'middle of a run' | 'opposite' | 'point' | 'on an edge';

const minus = (a: Xyz, b: Xyz): Xyz => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const dot = (a: Xyz, b: Xyz) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const length = (a: Xyz) => Math.hypot(...a);
const mix = (a: Xyz, b: Xyz, t: number): Xyz => [
    a[0] + (b[0] - a[0]) * t,
    a[1] + (b[1] - a[1]) * t,
    a[2] + (b[2] - a[2]) * t,
];

/** How far along the line each of its points is, mm. */
function waysAlong(line: RimLine): number[] {
    const ways = [0];
    for (let i = 1; i < line.points.length; i++)
        ways.push(ways[i - 1]! + length(minus(line.points[i]!, line.points[i - 1]!)));
    return ways;
}

const isClosed = (line: RimLine) =>
    length(minus(line.points[0]!, line.points[line.points.length - 1]!)) === 0;

/** The place so far along a closed line. */
function placeAt(line: RimLine, ways: number[], way: number): Xyz {
    const whole = ways[ways.length - 1]!;
    const at = ((way % whole) + whole) % whole;
    let i = ways.findIndex((w) => w >= at);
    if (i < 1) i = 1;
    const span = ways[i]! - ways[i - 1]!;
    return mix(line.points[i - 1]!, line.points[i]!, span > 0 ? (at - ways[i - 1]!) / span : 0);
}

/** How far along the line the place nearest to a point is, and how far it is off, mm. */
function nearestWay(line: RimLine, ways: number[], p: Xyz): { way: number; off: number } {
    let best = { way: 0, off: Infinity };
    for (let i = 1; i < line.points.length; i++) {
        const [a, b] = [line.points[i - 1]!, line.points[i]!];
        const d = minus(b, a);
        const t = Math.min(1, Math.max(0, dot(minus(p, a), d) / (dot(d, d) || 1)));
        const off = length(minus(p, mix(a, b, t)));
        if (off < best.off) best = { way: ways[i - 1]! + t * (ways[i]! - ways[i - 1]!), off };
    }
    return best;
}

/** The split points of each closed rim, in order along it. */
function splitsOn(line: RimLine, ways: number[], splits: readonly Xyz[]): { at: Xyz; way: number }[] {
    const whole = ways[ways.length - 1]!;
    return splits
        .map((at) => ({ at, ...nearestWay(line, ways, at) }))
        .filter((s) => s.off <= whole * 1e-4)
        .map(({ at, way }) => ({ at, way: way % whole }))
        .sort((a, b) => a.way - b.way);
}

/** The runs into which split points cut the rims. */
export function runsBetween(lines: readonly RimLine[], splits: readonly Xyz[]): Run[] {
    const runs: Run[] = [];
    for (const line of lines.filter((l) => l.points.length > 3 && isClosed(l))) {
        const ways = waysAlong(line);
        const whole = ways[ways.length - 1]!;
        const on = splitsOn(line, ways, splits);
        if (on.length < 2) continue;
        on.forEach((from, i) => {
            const to = on[(i + 1) % on.length]!;
            const span = (to.way - from.way + whole) % whole || whole;
            const inner = line.points.filter((_, k) => {
                const gone = (ways[k]! - from.way + whole) % whole;
                return k < line.points.length - 1 && gone > 0 && gone < span;
            });
            const gone = (p: Xyz) => (ways[line.points.indexOf(p)]! - from.way + whole) % whole;
            inner.sort((a, b) => gone(a) - gone(b));
            runs.push({
                name: `${line.name}${String.fromCharCode(97 + i)}`,
                rim: line.name,
                from: from.at,
                to: to.at,
                through: placeAt(line, ways, from.way + span / 2),
                line: [from.at, ...inner, to.at],
            });
        });
    }
    return runs;
}

/** A turn of the line by more than this is a corner, as a cosine. */
const CORNER = Math.cos((30 * Math.PI) / 180);

/** Places on a rim a pick is drawn to: opposite a split point, the middle of a run, corners; and its points. */
export function snapsOf(line: RimLine, splits: readonly Xyz[]): { at: Xyz; snap: Snap }[] {
    if (!isClosed(line)) return [];
    const ways = waysAlong(line);
    const whole = ways[ways.length - 1]!;
    const on = splitsOn(line, ways, splits);
    const snaps: { at: Xyz; snap: Snap }[] = on.map((s) => ({
        at: placeAt(line, ways, s.way + whole / 2),
        snap: 'opposite',
    }));
    if (on.length >= 2)
        on.forEach((s, i) => {
            const span = (on[(i + 1) % on.length]!.way - s.way + whole) % whole || whole;
            snaps.push({ at: placeAt(line, ways, s.way + span / 2), snap: 'middle of a run' });
        });
    const n = line.points.length - 1;
    for (let i = 0; i < n; i++) {
        const [before, at, after] = [
            line.points[(i + n - 1) % n]!,
            line.points[i]!,
            line.points[(i + 1) % n]!,
        ];
        const [u, v] = [minus(at, before), minus(after, at)];
        const corner = dot(u, v) < CORNER * length(u) * length(v);
        snaps.push({ at, snap: corner ? 'corner' : 'point' });
    }
    return snaps;
}
