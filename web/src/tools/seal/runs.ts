// Runs of split rims.
import type { Xyz } from '../../rimRuns';

/** A run is not chosen yet while it begins where it ends. */
export const unchosen = (run: { from: readonly number[]; to: readonly number[] }) =>
    run.from.every((x, i) => x === run.to[i]);
export const noRun = { from: [0, 0, 0] as Xyz, to: [0, 0, 0] as Xyz, through: [0, 0, 0] as Xyz };
