// What is drawn of the edges a step means: the number each has in its list, the one pointed to there, radii along one.
import { millimetres } from '../../format';
import type { Action, Schemas } from '../../api/client';
import type { Xyz } from '../../rimRuns';

/** More edges than this are neither listed nor numbered. */
export const MOST_LISTED = 12;

export interface EdgeMarks {
    lines: { line: Xyz[]; chosen: boolean }[];
    names: { at: Xyz; text: string; key: string }[];
}

/** The marks of edges that were found for a step, of which one may be pointed to. */
export function edgeMarks(
    found: Schemas['EdgeRuns'] | null,
    pointed: number | null,
    draft: Action | null,
): EdgeMarks {
    const runs = found?.runs.slice(0, MOST_LISTED) ?? [];
    const numbers = runs.map((r, n) => ({ at: r.at as Xyz, text: String(n + 1), key: `edge ${n}` }));
    const along = draft?.kind === 'shape.round' ? (draft.also ?? []).flatMap((own) => own.along ?? []) : [];
    const radii = along.map((one, n) => ({
        at: one.at as Xyz,
        text: millimetres(one.radius),
        key: `along ${n}`,
    }));
    const line = pointed === null ? undefined : runs[pointed]?.line;
    return {
        lines: line ? [{ line: line as Xyz[], chosen: true }] : [],
        // One edge needs no number.
        names: found ? [...(runs.length > 1 ? numbers : []), ...radii] : [],
    };
}
