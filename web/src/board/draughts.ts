// How a figure or a rule is written on the paper.
import { perMillimetre, units } from '../format';
import type { Schemas } from '../api/client';

type Draught = Pick<Schemas['Draught'], 'figure' | 'unit' | 'before' | 'text'>;

/** A figure with its unit, to what can be read; of a rule its kind. */
export function figureText(d: Draught): string {
    if (d.figure == null) return /^(same \w+|in line|\w+)/.exec(d.text)?.[0] ?? d.text;
    if (d.unit === '°') return `${Number(d.figure.toFixed(3))}°`;
    return `${d.before}${Number((d.figure * perMillimetre()).toPrecision(6))} ${units.length}`;
}
