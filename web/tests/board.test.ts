import { expect, test } from 'vitest';
import { dropped, lifted, normalOf, paperOf, roundLength, rulings, within } from '../src/board/plane';

// A plane that lies askew: its directions square to each other.
const frame = {
    origin: [1, 2, 3],
    right: [0.6, 0, 0.8],
    up: [0, 1, 0],
};

test('places of the board are lifted into space and dropped back', () => {
    expect(lifted(frame, [10, -5])).toEqual([7, -3, 11]);
    const back = dropped(frame, [7, -3, 11]);
    expect(back[0]).toBeCloseTo(10, 12);
    expect(back[1]).toBeCloseTo(-5, 12);
    expect(normalOf(frame)).toEqual([-0.8, 0, 0.6]);
});

test('lengths are rounded up to one, two or five', () => {
    for (const [least, round] of [
        [0.7, 1],
        [1, 1],
        [1.1, 2],
        [3, 5],
        [7, 10],
        [0.003, 0.005],
        [0.2, 0.2],
        [450, 500],
    ])
        expect(roundLength(least!)).toBeCloseTo(round!, 12);
});

test('the paper holds the drawing and zero, to round figures, with a margin', () => {
    const { least, most } = paperOf([
        [12, 3],
        [40, 21],
    ]);
    expect(least[0]).toBeLessThan(0);
    expect(least[1]).toBeLessThan(0);
    expect(most[0]).toBeGreaterThan(40);
    expect(most[1]).toBeGreaterThan(21);
    expect(paperOf([])).toEqual({ least: [-70, -70], most: [70, 70] });
});

test('a ruling has round figures and is never endless', () => {
    expect(rulings(-0.25, 0.31, 0.1)).toEqual([-0.2, -0.1, 0, 0.1, 0.2, 0.3]);
    expect(rulings(0, 1e9, 1)).toHaveLength(400);
    expect(rulings(1, 0, 1)).toEqual([]);
});

test('a place lies within a region but not in its holes', () => {
    const square = (r: number) => [
        [-r, -r],
        [r, -r],
        [r, r],
        [-r, r],
    ];
    const ring = [square(10), square(4)];
    expect(within(ring, [7, 1])).toBe(true);
    expect(within(ring, [1, 1])).toBe(false);
    expect(within(ring, [11, 1])).toBe(false);
});
