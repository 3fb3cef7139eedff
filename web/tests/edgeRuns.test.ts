import { describe, expect, it } from 'vitest';
import { meant } from '../src/stores/edgeRuns';
import { withOwn } from '../src/tools/shape/round/own';
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

    it('are asked for anew when others are meant, not when the figure changes', () => {
        const step = { kind: 'shape.round' as const, part: 1, on: { edges: [at] }, radius: 1 };
        expect(meant({ ...step, radius: 2 } as never)).toEqual(meant(step as never));
        expect(meant({ ...step, on: { edges: [at, at] } } as never)).not.toEqual(meant(step as never));
        expect(meant({ ...step, on: { edges: [] } } as never)).toBeNull();
        expect(meant({ ...step, on: { sharp: { than: 20 } } } as never)).not.toBeNull();
    });
});
