// How a figure or a rule is written on the paper.
import { perMillimetre, units } from '../format';
import type { Schemas } from '../api/client';

type Draught = Pick<Schemas['Draught'], 'figure' | 'unit' | 'before' | 'text'>;

/** What kind of figure or rule a row is of: `length`, `same size`. */
export const kindOf = (row: string): string => /^(same \w+|in line|\w+)/.exec(row)?.[0] ?? row;

/** A figure with its unit, to what can be read; of a rule its kind. */
export function figureText(d: Draught): string {
    if (d.figure == null) return kindOf(d.text);
    if (d.unit === '°') return `${Number(d.figure.toFixed(3))}°`;
    return `${d.before}${Number((d.figure * perMillimetre()).toPrecision(6))} ${units.length}`;
}

/** A row with another figure at its end. */
export const withFigure = (text: string, figure: number) => text.replace(/\S+$/, `${figure}`);
