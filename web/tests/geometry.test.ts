// Rims, planes and snaps on the screen.
import { describe, expect, test } from 'vitest';
import * as THREE from 'three';
import { axisOf, middlePlane, movedBy, offsetOf, offsetTo, planeThrough } from '../src/planes';
import { runsBetween, snapsOf as rimSnaps, type RimLine, type Xyz } from '../src/rimRuns';
import { fit } from '../src/viewport/fit';
import { onGrid, snapsOf } from '../src/viewport/snapping';

/** A square of 10 with a point in the middle of each side. */
const square: RimLine = {
    name: 'R1',
    points: [
        [0, 0, 0],
        [5, 0, 0],
        [10, 0, 0],
        [10, 5, 0],
        [10, 10, 0],
        [5, 10, 0],
        [0, 10, 0],
        [0, 5, 0],
        [0, 0, 0],
    ],
};
const long = (line: readonly Xyz[]) =>
    line.slice(1).reduce((sum, p, i) => sum + Math.hypot(...p.map((x, k) => x - line[i]![k]!)), 0);

describe('runs of a rim', () => {
    test.each([
        [
            [
                [5, 0, 0],
                [5, 10, 0],
            ],
            [20, 20],
        ],
        [
            [
                [0, 0, 0],
                [10, 0, 0],
                [10, 10, 0],
            ],
            [10, 10, 20],
        ],
        // A split point need not be a point of the rim.
        [
            [
                [2, 0, 0],
                [10, 3, 0],
            ],
            [11, 29],
        ],
    ] as [Xyz[], number[]][])('%j', (splits, lengths) => {
        const runs = runsBetween([square], splits);
        expect(runs.map((r) => long(r.line))).toEqual(lengths);
        expect(runs.reduce((sum, r) => sum + long(r.line), 0)).toBe(40);
        // The end of each is the beginning of the next.
        runs.forEach((r, i) => expect(r.to).toEqual(runs[(i + 1) % runs.length]!.from));
    });
    test('one split point, or one that is off the rim, makes none', () => {
        expect(runsBetween([square], [[5, 0, 0]])).toEqual([]);
        expect(
            runsBetween(
                [square],
                [
                    [5, 0, 0],
                    [5, 5, 0],
                ],
            ),
        ).toEqual([]);
    });
    test('picks snap to corners, and opposite a split point', () => {
        const snaps = rimSnaps(square, [[5, 0, 0]]);
        expect(snaps.find((s) => s.snap === 'opposite')!.at).toEqual([5, 10, 0]);
        expect(snaps.filter((s) => s.snap === 'corner')).toHaveLength(4);
    });
});

describe('planes', () => {
    test('through three points, none through a line', () => {
        expect(
            planeThrough([
                [0, 0, 3],
                [1, 0, 3],
                [0, 1, 3],
            ]),
        ).toEqual({ at: [0, 0, 3], normal: [0, 0, 1] });
        expect(
            planeThrough([
                [0, 0, 3],
                [0, 1, 3],
                [1, 0, 3],
            ])!.normal[2],
        ).toBe(1);
        expect(
            planeThrough([
                [0, 0, 0],
                [1, 1, 1],
                [2, 2, 2],
            ]),
        ).toBeNull();
        expect(planeThrough([[0, 0, 0]])).toBeNull();
    });
    test('moved there and back they are where they were', () => {
        for (const normal of [
            [0, 0, 1],
            [0, -2, 0],
            [1, 2, 2],
        ]) {
            const plane = { at: [1, 2, 3], normal };
            expect(offsetOf(offsetTo(plane, 7.5))).toBeCloseTo(7.5, 3);
            expect(offsetOf(movedBy(movedBy(plane, 4), -4))).toBeCloseTo(offsetOf(plane), 3);
        }
    });
    test('an axis is one only if nothing else is in it', () =>
        expect(
            [
                [0, 3, 0],
                [0, 1, 1],
                [0, 0, -1],
            ].map(axisOf),
        ).toEqual([1, null, 2]));
    test('the middle of a part is level', () =>
        expect(middlePlane({ least: [-1, 0, 2], size: [4, 4, 4] })).toEqual({
            at: [1, 2, 4],
            normal: [0, 0, 1],
        }));
});

test('places on a face snap to its corners and to bores square to it', () => {
    const face = (id: number, surface: object) => ({
        id,
        surface,
        place: { centre: [5, 5, 0], radius: 7.1 },
    });
    const faces = [
        face(1, { kind: 'plane', normal: [0, 0, 1] }),
        face(2, { kind: 'cylinder', axis: [0, 0, -1], centre: [3, 4, -2], radius: 1, hollow: true }),
        face(3, { kind: 'cylinder', axis: [1, 0, 0], centre: [5, 5, 0], radius: 1, hollow: true }),
    ] as never[];
    const corners: Xyz[] = [
        [0, 0, 0],
        [10, 0, 0],
        [10, 10, 0],
        [0, 10, 0],
    ];
    const sides = corners.flatMap((p, i) => [...p, ...corners[(i + 1) % 4]!]);
    const snaps = snapsOf(faces, 1, new Float32Array(sides));
    expect(snaps.filter((s) => s.text === 'corner').map((s) => s.at)).toEqual(corners);
    expect(snaps.filter((s) => s.text === 'middle of a bore').map((s) => s.at)).toEqual([[3, 4, 0]]);
    expect(snapsOf(faces, 2, new Float32Array(sides))).toEqual([]);
});

test('the grid lies in the face and goes through the origin', () => {
    expect(onGrid([1.2, 2.9, 7], [0, 0, 1], 1)).toEqual([1, 3, 7]);
    const [x, y, z] = onGrid([7, 1.2, 2.9], [1, 0, 0], 0.5);
    expect([x, y, z].map((v) => Number(v.toFixed(9)))).toEqual([7, 1, 3]);
});

test('what is fitted is in the picture whole, and touches its edge', () => {
    const camera = new THREE.PerspectiveCamera(40, 1.6, 0.1, 1000);
    camera.up.set(0, 0, 1);
    const points = [0, 1, 2, 3, 4, 5, 6, 7].map(
        (k) => new THREE.Vector3(k & 1 ? 30 : -10, k & 2 ? 5 : 0, k & 4 ? 80 : -3),
    );
    const towards = new THREE.Vector3(1, -2, 1).normalize();
    const { centre, distance } = fit(points, towards, camera);
    camera.position.copy(centre).addScaledVector(towards, distance);
    camera.lookAt(centre);
    camera.updateMatrixWorld();
    camera.updateProjectionMatrix();
    const seen = points.map((p) => p.clone().project(camera));
    const most = Math.max(...seen.flatMap((p) => [Math.abs(p.x), Math.abs(p.y)]));
    expect(most).toBeLessThanOrEqual(1 + 1e-9);
    expect(most).toBeGreaterThan(0.9);
});
