// The planes of a step: where they are, and how it reads with one of them changed.
import type { Action } from './api/client';
import type { Xyz } from './rimRuns';

export type Plane = Extract<Action, { kind: 'shape.mirror' }>['across'];

export interface HeldPlane {
    plane: Plane;
    with: (plane: Plane) => Action;
}

export function planesOf(a: Action | null): HeldPlane[] {
    switch (a?.kind) {
        case 'shape.saw':
            return 'plane' in a.by ? [{ plane: a.by.plane, with: (plane) => ({ ...a, by: { plane } }) }] : [];
        case 'shape.mirror':
            return [{ plane: a.across, with: (across) => ({ ...a, across }) }];
        case 'shape.chambers':
            return a.planes.map((plane, i) => ({
                plane,
                with: (now) => ({ ...a, planes: a.planes.map((old, k) => (k === i ? now : old)) }),
            }));
        default:
            return [];
    }
}

const minus = (a: readonly number[], b: readonly number[]) => a.map((x, i) => x - b[i]!);
const cross = (a: readonly number[], b: readonly number[]): Xyz => [
    a[1]! * b[2]! - a[2]! * b[1]!,
    a[2]! * b[0]! - a[0]! * b[2]!,
    a[0]! * b[1]! - a[1]! * b[0]!,
];
/** A level plane through the middle of a part. */
export function middlePlane(f: { least: readonly number[]; size: readonly number[] } | null): Plane {
    const at = f ? f.least.map((x, i) => Number((x + f.size[i]! / 2).toFixed(2))) : [0, 0, 0];
    return { at, normal: [0, 0, 1] };
}

const tidy = (x: number) => Number(x.toFixed(4)) + 0;

/** The axis a normal is along. */
export const axisOf = (n: readonly number[]) => {
    const along = [0, 1, 2].filter((k) => Math.abs(n[k]!) > 1e-9);
    return along.length === 1 ? along[0]! : null;
};

/** The plane through three points; null when they lie on a line. */
export function planeThrough(points: readonly Xyz[]): Plane | null {
    const [a, b, c] = points;
    if (!a || !b || !c) return null;
    const normal = cross(minus(b, a), minus(c, a));
    const size = Math.hypot(...normal);
    const long = Math.max(Math.hypot(...minus(b, a)), Math.hypot(...minus(c, a)));
    if (size < 1e-6 * long * long || !size) return null;
    const up = axisSense(normal);
    return { at: [...a], normal: normal.map((x) => (x / size) * up) };
}

/** A plane faces the way its largest figure is above nought. */
const axisSense = (n: readonly number[]) =>
    Math.sign(n.reduce((most, x) => (Math.abs(x) > Math.abs(most) ? x : most), 0)) || 1;

/** How far the plane lies from the origin along its normal, or along its axis. */
export function offsetOf({ at, normal }: Plane): number {
    const size = Math.hypot(...normal);
    const sense = axisOf(normal) === null ? 1 : axisSense(normal);
    return tidy((at.reduce((s, x, i) => s + x * normal[i]!, 0) / size) * sense);
}

/** The plane moved along its normal. */
export function movedBy(plane: Plane, by: number): Plane {
    const { at, normal } = plane;
    const size = Math.hypot(...normal);
    return { ...plane, at: at.map((x, i) => tidy(x + (normal[i]! / size) * by)) };
}

/** The plane at another offset. */
export function offsetTo(plane: Plane, to: number): Plane {
    const sense = axisOf(plane.normal) === null ? 1 : axisSense(plane.normal);
    return movedBy(plane, (to - offsetOf(plane)) * sense);
}
