// Places on the board and in space, what a paper's ruling is, and which region lies under a place.
import type { Schemas } from '../api/client';
import type { Xyz } from '../rimRuns';

export type Flat = readonly [number, number];
export type BoardView = Schemas['BoardView'];
type Frame = Pick<BoardView, 'origin' | 'right' | 'up'>;

const dot = (a: readonly number[], b: readonly number[]) => a.reduce((s, x, i) => s + x * b[i]!, 0);

/** Where a place of the board is in space. */
export const lifted = (f: Frame, [x, y]: readonly number[]): Xyz =>
    f.origin.map((o, i) => o + f.right[i]! * x! + f.up[i]! * y!) as Xyz;

/** Where a place of its plane is on the board. */
export function dropped(f: Frame, at: readonly number[]): Flat {
    const off = at.map((x, i) => x - f.origin[i]!);
    return [dot(off, f.right), dot(off, f.up)];
}

/** The normal of its plane. */
export const normalOf = ({ right: a, up: b }: Frame): Xyz => [
    a[1]! * b[2]! - a[2]! * b[1]!,
    a[2]! * b[0]! - a[0]! * b[2]!,
    a[0]! * b[1]! - a[1]! * b[0]!,
];

/** The least round length (1, 2 or 5 of a power of ten) that is at least so long, mm. */
export function roundLength(least: number): number {
    const power = 10 ** Math.floor(Math.log10(least));
    return Number(([1, 2, 5].find((m) => m * power >= least * (1 - 1e-9)) ?? 10) * power.valueOf());
}

export interface Paper {
    least: Flat;
    most: Flat;
}

/** The paper under a drawing: round everything there is, with a margin, to round figures. */
export function paperOf(points: readonly Flat[]): Paper {
    const all: readonly Flat[] = points.length
        ? points
        : [
              [-50, -50],
              [50, 50],
          ];
    const least = [0, 1].map((k) => Math.min(...all.map((p) => p[k]!), 0));
    const most = [0, 1].map((k) => Math.max(...all.map((p) => p[k]!), 0));
    const size = Math.max(most[0]! - least[0]!, most[1]! - least[1]!, 1e-3);
    const step = roundLength(size / 10);
    const down = (x: number) => Math.floor((x - size * 0.15) / step) * step;
    const up = (x: number) => Math.ceil((x + size * 0.15) / step) * step;
    return { least: [down(least[0]!), down(least[1]!)], most: [up(most[0]!), up(most[1]!)] };
}

/** The figures of a ruling between two others, no more than so many. */
export function rulings(from: number, to: number, step: number, most = 400): number[] {
    const first = Math.ceil(from / step - 1e-9);
    const count = Math.min(Math.floor(to / step + 1e-9) - first + 1, most);
    return Array.from({ length: Math.max(count, 0) }, (_, i) => Number(((first + i) * step).toPrecision(12)));
}

/** Whether a place lies within outlines, counted by crossings. */
export function within(outlines: readonly (readonly (readonly number[])[])[], [x, y]: Flat): boolean {
    let inside = false;
    for (const outline of outlines) {
        outline.forEach(([ax, ay], i) => {
            const [bx, by] = outline[(i + 1) % outline.length]!;
            if (ay! > y !== by! > y && x < ((bx! - ax!) * (y - ay!)) / (by! - ay!) + ax!) inside = !inside;
        });
    }
    return inside;
}
