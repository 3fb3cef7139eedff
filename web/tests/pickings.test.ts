// What a click means, as the description of a tool says.
import { expect, test } from 'vitest';
import type { Action } from '../src/api/client';
import type { Described } from '../src/tools/fields/describe';
import { lacksParts, pickingOf, type Picked } from '../src/tools/picking/pickings';
import { picking as bore } from '../src/tools/fasten/bore/picking';

const face: Described = { asks: 'face', anyOf: [{ type: 'array' }, { type: 'object' }] };
const described: Described = {
    properties: {
        with: { type: 'array', items: { type: 'integer', asks: 'part' }, least: 1 },
        what: {
            oneOf: [
                { const: 'all' },
                { type: 'object', properties: { faces: { type: 'array', items: face } } },
                {
                    type: 'object',
                    properties: { brush: { type: 'array', items: { type: 'object', asks: 'brush' } } },
                },
            ],
        },
    },
};
const step = (parameters: object) => ({ kind: 'seal.smooth', ...parameters }) as unknown as Action;

test('nothing is picked where all is meant', () =>
    expect(pickingOf(described, step({ what: 'all' }))).toBeNull());

test('picks stand in the step as it is kept, and are read back', () => {
    const faces = pickingOf(described, step({ what: { faces: [] } }))!;
    expect([faces.kind, faces.least]).toEqual(['face', 1]);
    const picks: Picked[] = [{ at: [1, 2, 3] }, { at: [4, 5, 6], face: { at: [4, 5, 6], face: 7 } as never }];
    const written = faces.with(picks);
    expect(written).toMatchObject({ what: { faces: [[1, 2, 3], { face: 7 }] } });
    expect(pickingOf(described, written)!.points).toEqual(picks);
    const dabs = pickingOf(described, step({ what: { brush: [] } }))!.with([{ at: [0, 0, 1], radius: 2 }]);
    expect(dabs).toMatchObject({ what: { brush: [{ near: [0, 0, 1], radius: 2 }] } });
});

test('one face holds the last that was clicked', () => {
    const one: Described = { properties: { wall: { ...face, hint: 'Click the wall.' } } };
    const asked = pickingOf(one, step({ wall: null }))!;
    expect([asked.hint, asked.least, asked.points.length]).toEqual(['Click the wall.', 1, 0]);
    const two = asked.with([{ at: [1, 0, 0] }, { at: [2, 0, 0] }]);
    expect(two).toMatchObject({ wall: [2, 0, 0] });
    expect(asked.with([])).toMatchObject({ wall: null });
});

test('other parts are missing until one is named', () => {
    expect(lacksParts(described, step({ with: [], what: 'all' }))).toBe(true);
    expect(lacksParts(described, step({ with: [3], what: 'all' }))).toBe(false);
});

test('bores keep the diameters of places that stay, and follow a face only if all are on it', () => {
    const begun = step({
        kind: 'fasten.bore',
        face: null,
        places: { points: [{ at: [1, 1, 0], diameter: 4 }, [5, 5, 0]] },
    }) as never;
    const on = (face: number) => ({ face: { face } as never });
    const spots = bore(begun);
    const moved = spots.with([
        { at: [1, 1, 0], ...on(2) },
        { at: [9, 9, 0], ...on(2) },
    ]);
    expect(moved).toMatchObject({
        face: { face: 2 },
        places: { points: [{ at: [1, 1, 0], diameter: 4 }, [9, 9, 0]] },
    });
    expect(
        spots.with([
            { at: [1, 1, 0], ...on(2) },
            { at: [9, 9, 0], ...on(3) },
        ]),
    ).toMatchObject({ face: null });
});
