// What a loft or a sweep runs through is asked with the meshes it names; beginnings are moved one by one.
import { beforeEach, expect, test } from 'vitest';
import type { Action } from '../../src/api/client';
import { begunAt, useCourse, type Course } from '../../src/stores/course';
import { useForecast } from '../../src/stores/forecast';
import { job, part, Refused, onBench, settled, type FakeServer } from '../fakeServer';

let server: FakeServer;
const sweep = (twist: number, parts: number[]) =>
    ({ kind: 'shape.sweep', path: { profiles: { parts } }, twist }) as unknown as Action;
const square = (z: number) =>
    [
        [0, 0, z],
        [8, 0, z],
        [8, 8, z],
        [0, 8, z],
    ] as [number, number, number][];
const loft: Course = {
    sections: [0, 20].map((z) => ({ line: square(z), closed: true, begins: [0, 0, z] })),
    path: [],
    end: null,
};

beforeEach(async () => {
    server = await onBench(() => job({ parts: [part(1), part(2), part(7)] }));
});

test('asked with the meshes it names, again when it changes, and gone with the tool', async () => {
    server.on('POST', '/courses', () => ({ course: { ...loft, path: [[0, 0, 0]] } }));
    const [course, forecast] = [useCourse(), useForecast()];
    forecast.begin('Sweep', sweep(0, [7]));
    await settled();
    const bodies = () => server.of('POST', '/courses').map((a) => a.body as { parts: object; mesh: string });
    expect(bodies()[0]).toMatchObject({ mesh: 'mesh-1', parts: { 7: 'mesh-7' } });
    // Closed outlines come back to where they begin; a path of one place is no line.
    expect(course.lines.map((l) => l.points.length)).toEqual([5, 5]);
    forecast.draft = sweep(0, [7]);
    await settled();
    expect(bodies().length).toBe(1);
    forecast.draft = sweep(90, [7]);
    await settled();
    expect(bodies().length).toBe(2);
    // What leads nowhere has no lines.
    server.on('POST', '/courses', () => new Refused('refused'));
    forecast.draft = sweep(90, []);
    await settled();
    expect([course.found, course.lines]).toEqual([null, []]);
    forecast.draft = { kind: 'seal.turn_outward' } as unknown as Action;
    await settled();
    expect([course.step, bodies().length]).toEqual([null, 3]);
});

test('a beginning takes the place of the one its outline had', () => {
    const first = begunAt([], loft, 0, [8, 0, 0]);
    const both = begunAt(first, loft, 1, [8, 8, 20]);
    expect(both).toEqual([
        [8, 0, 0],
        [8, 8, 20],
    ]);
    expect(begunAt(both, loft, 0, [0, 8, 0])).toEqual([
        [8, 8, 20],
        [0, 8, 0],
    ]);
});
