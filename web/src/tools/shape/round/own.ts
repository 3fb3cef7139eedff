// Radii that runs of edges have of their own.
import type { Schemas } from '../../../api/client';
import type { Xyz } from '../../../rimRuns';

type Also = Schemas['RoundedToo'];

/** The list with another radius for the run with this place in its middle; without it where there is none. */
export function withOwn(also: readonly Also[], at: Xyz, radius: number | null): Also[] {
    const is = (entry: Also) =>
        'edges' in entry.on && JSON.stringify(entry.on.edges) === JSON.stringify([at]);
    const others = also.filter((entry) => !is(entry));
    return radius === null ? others : [...others, { on: { edges: [at] }, radius }];
}
