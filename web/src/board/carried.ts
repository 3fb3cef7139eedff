// Lines carried down from parts, known by their names.
import type { Schemas } from '../api/client';

type Line = Schemas['Line'];

/** Whether a line is one of those carried down under a name. */
export const isOf = (line: Pick<Line, 'name' | 'still'>, name: string) =>
    !!line.still && line.name.startsWith(name) && /^\d+$/.test(line.name.slice(name.length));
