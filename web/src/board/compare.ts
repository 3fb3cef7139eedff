// Which curves one drawing has and another has not.
import type { BoardView } from './plane';

type Curve = Pick<BoardView['curves'][number], 'line' | 'points'>;

/** Curves that are the same have the same mark. */
const mark = ({ line, points }: Curve) =>
    [line, points.length, points[0], points[points.length >> 1], points.at(-1)].join('|');

/** The curves of one drawing that another has not. */
export function without<C extends Curve>(curves: readonly C[], others: readonly Curve[]): C[] {
    const marks = new Set(others.map(mark));
    return curves.filter((c) => !marks.has(mark(c)));
}
