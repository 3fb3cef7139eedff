import { describe, expect, it } from 'vitest';
import { edgeMarks } from '../src/tools/picking/edgeMarks';
import { meant } from '../src/stores/edgeRuns';
import {
    alongOf,
    inOrder,
    placeAt,
    shareOf,
    withAlong,
    withAnother,
    withOwn,
} from '../src/tools/shape/round/own';
import type { Xyz } from '../src/rimRuns';

describe('runs of edges', () => {
    const at: Xyz = [1, 2, 3];
    const others = [
        { on: { faces: [at] }, radius: 4 },
        { on: { edges: [[9, 9, 9] as Xyz] }, radius: 1 },
    ];

    it('have one radius of their own at most, and none when it is taken back', () => {
        const once = withOwn(others, at, 2);
        expect(once).toEqual([...others, { on: { edges: [at] }, radius: 2 }]);
        expect(withOwn(once, at, 3)).toEqual([...others, { on: { edges: [at] }, radius: 3 }]);
        expect(withOwn(once, at, null)).toEqual(others);
    });

    it('have radii along them at shares of their length', () => {
        const line = Array.from({ length: 21 }, (_, n): Xyz => [n * 2, 5, n > 10 ? 1 : 0]);
        for (const share of [0, 0.13, 0.5, 0.77, 1])
            expect(shareOf(line, placeAt(line, share))).toBeCloseTo(share, 9);
        // What is beside it is taken for the place it is nearest to, what is beyond it for its end.
        expect(shareOf(line, [7, 9, 0])).toBeCloseTo(0.175, 9);
        expect(shareOf(line, [-4, 5, 0])).toBe(0);
        const two = withAlong(others, at, [
            { at: placeAt(line, 1), radius: 3 },
            { at: placeAt(line, 0), radius: 1 },
        ]);
        expect(two).toHaveLength(3);
        expect(inOrder(line, alongOf(two, at)).map((row) => row.radius)).toEqual([1, 3]);
        expect(withAlong(two, at, [])).toEqual(others);
        expect(alongOf(withOwn(two, at, 2), at)).toEqual([]);
        const three = inOrder(line, withAnother(line, alongOf(two, at), false));
        expect(three[1]).toEqual({ share: 0.5, radius: 2 });
        // Of a closed run the widest stretch may be that over its beginning.
        const round = withAnother(
            line,
            [
                { at: placeAt(line, 0.4), radius: 1 },
                { at: placeAt(line, 0.8), radius: 2 },
            ],
            true,
        );
        expect(inOrder(line, round)[0]?.share).toBeCloseTo(0.1, 9);
    });

    it('have their numbers in the view, and the one pointed to is drawn', () => {
        const run = (n: number) => ({
            at: [n, 0, 0],
            line: [
                [n, 0, 0],
                [n, 5, 0],
            ],
            largest: 1,
            length: 5,
        });
        const found = (count: number) =>
            ({ runs: Array.from({ length: count }, (_, n) => run(n)), count, together: 1 }) as never;
        expect(edgeMarks(null, null, null)).toEqual({ lines: [], names: [] });
        expect(edgeMarks(found(1), 0, null).names).toEqual([]);
        const many = edgeMarks(found(40), 3, null);
        expect(many.names.map((n) => n.text)).toEqual(Array.from({ length: 12 }, (_, n) => String(n + 1)));
        expect(many.lines).toEqual([{ line: run(3).line, chosen: true }]);
        // One that is no longer among them is not drawn.
        expect(edgeMarks(found(2), 7, null).lines).toEqual([]);
        const draft = { kind: 'shape.round', also: [{ along: [{ at, radius: 2 }] }, { radius: 4 }] } as never;
        expect(edgeMarks(found(1), null, draft).names.map((n) => n.text)).toEqual(['2 mm']);
    });

    it('are asked for anew when others are meant, not when the figure changes', () => {
        const step = { kind: 'shape.round' as const, part: 1, on: { edges: [at] }, radius: 1 };
        expect(meant({ ...step, radius: 2 } as never)).toEqual(meant(step as never));
        expect(meant({ ...step, on: { edges: [at, at] } } as never)).not.toEqual(meant(step as never));
        expect(meant({ ...step, on: { edges: [] } } as never)).toBeNull();
        expect(meant({ ...step, on: { sharp: { than: 20 } } } as never)).not.toBeNull();
    });
});
