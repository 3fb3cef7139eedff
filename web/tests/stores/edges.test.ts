// What edges could have is told at once, and again when it was tried out.
import { beforeEach, expect, test } from 'vitest';
import type { Action } from '../../src/api/client';
import { useEdgeRuns } from '../../src/stores/edgeRuns';
import { useForecast } from '../../src/stores/forecast';
import { job, Refused, onBench, settled, type FakeServer } from '../fakeServer';

let server: FakeServer;
const rounding = (radius: number, at: number) =>
    ({ kind: 'shape.round', on: { edges: [[at, 0, 0]] }, radius }) as unknown as Action;
const tries = () =>
    server.of('POST', '/meshes/mesh-1/edge-runs').map((a) => (a.body as { tried: boolean }).tried);

beforeEach(async () => {
    server = await onBench(() => job());
});

test('first by where they touch, then tried; the same edges are not asked for again for another figure', async () => {
    let untried = () => {};
    server.on('POST', '/meshes/*/edge-runs', async ({ body }) => {
        const { tried } = body as { tried: boolean };
        if (tried) await new Promise<void>((go) => (untried = go));
        return { found: { runs: [], count: 1, together: tried ? 0.2 : 0.06, tried } };
    });
    const [edges, forecast] = [useEdgeRuns(), useForecast()];
    forecast.begin('Round', rounding(1, 5));
    await settled();
    expect([edges.found?.together, edges.trying]).toEqual([0.06, true]);
    untried();
    await settled();
    expect([edges.found?.together, edges.found?.tried, edges.trying]).toEqual([0.2, true, false]);
    forecast.draft = rounding(2, 5);
    await settled();
    expect(tries()).toEqual([false, true]);
    // Others are; what was asked of the first is not waited for.
    forecast.draft = rounding(2, 9);
    await settled();
    forecast.draft = null;
    untried();
    await settled();
    expect([tries(), edges.found]).toEqual([[false, true, false, true], null]);
});

test('what cannot be tried stays as it was told; what cannot be told is not there', async () => {
    server.on('POST', '/meshes/*/edge-runs', ({ body }) =>
        (body as { tried: boolean }).tried
            ? new Refused('too-much-memory')
            : { found: { runs: [], count: 1, together: 3, tried: false } },
    );
    const [edges, forecast] = [useEdgeRuns(), useForecast()];
    forecast.begin('Round', rounding(1, 5));
    await settled();
    expect(edges.found?.together).toBe(3);
    server.on('POST', '/meshes/*/edge-runs', () => new Refused('refused'));
    forecast.draft = rounding(1, 7);
    await settled();
    expect(edges.found).toBeNull();
});
