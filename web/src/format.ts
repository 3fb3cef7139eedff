// Figures as people read them, always with their unit.
import { reactive, watch } from 'vue';
import type { Figures, Report } from './api/client';

/** Four significant digits without exponent, thin spaces between thousands. */
export function figure(x: number): string {
    const size = Math.abs(x);
    const decimals =
        size >= 1000 ? 0 : size >= 100 ? 1 : size >= 10 ? 2 : size >= 1 ? 3 : size >= 0.01 ? 4 : 6;
    const fixed = x.toFixed(decimals);
    const [whole = '0', fraction = ''] = fixed.split('.');
    const grouped = whole.replace(/\B(?=(\d{3})+(?!\d))/g, '\u2009');
    const tail = fraction.replace(/0+$/, '');
    const text = tail ? `${grouped}.${tail}` : grouped;
    return text === '-0' ? '0' : text;
}

/** What figures are shown in; all of them change at once. Kept for the person, not the job. */
export const units = reactive({
    length: stored('length', ['mm', 'cm', 'in'] as const),
    volume: stored('volume', ['mm³', 'ml', 'fl oz'] as const),
    mass: stored('mass', ['g', 'oz', 'dwt', 'ct'] as const),
});
function stored<T extends string>(what: string, known: readonly T[]): T {
    const held = localStorage.getItem(`nimbet.unit.${what}`) as T;
    return known.includes(held) ? held : known[0]!;
}
watch(units, (now) => Object.entries(now).forEach(([k, v]) => localStorage.setItem(`nimbet.unit.${k}`, v)));

/** Millimetres in a unit of length. */
const MM = { mm: 1, cm: 10, in: 25.4 };
/** Cubic millimetres in one of volume; a US fluid ounce has 231/128 cubic inches. */
const MM3 = { 'mm³': 1, ml: 1000, 'fl oz': (231 / 128) * 25.4 ** 3 };
/** Grams in one of mass: the avoirdupois ounce, the pennyweight, the metric carat. */
const G = { g: 1, oz: 28.349523125, dwt: 1.55517384, ct: 0.2 };

/** How many of the chosen unit of length a millimetre is. */
export const perMillimetre = () => 1 / MM[units.length];
export const millimetres = (mm: number) => `${figure(mm / MM[units.length])} ${units.length}`;
/** A coordinate, to the micrometre. */
export const coordinate = (x: number) => millimetres(Math.round(x * 1000) / 1000);
export function area(mm2: number) {
    if (units.length === 'mm') return mm2 >= 1e5 ? `${figure(mm2 / 100)} cm²` : `${figure(mm2)} mm²`;
    return `${figure(mm2 / MM[units.length] ** 2)} ${units.length}²`;
}
export function volume(mm3: number) {
    if (units.volume === 'mm³') return mm3 >= 1e5 ? `${figure(mm3 / 1000)} cm³` : `${figure(mm3)} mm³`;
    return `${figure(mm3 / MM3[units.volume])} ${units.volume}`;
}
/** A volume of liquid: never in cubic millimetres. */
export const liquid = (mm3: number) =>
    units.volume === 'mm³'
        ? `${figure(mm3 / 1000)} ml`
        : `${figure(mm3 / MM3[units.volume])} ${units.volume}`;
export function mass(grams: number) {
    if (units.mass === 'g') return grams >= 1000 ? `${figure(grams / 1000)} kg` : `${figure(grams)} g`;
    return `${figure(grams / G[units.mass])} ${units.mass}`;
}
/** What the server says in words, with its millimetres in the chosen unit. */
export function told(text: string): string {
    if (units.length === 'mm') return text;
    const number = String.raw`-?[\d\u2009]+(?:\.\d+)?`;
    const group = new RegExp(`(${number}(?:(?: × | to |, )${number})*) mm(²|³)?`, 'g');
    return text.replace(group, (_, numbers: string, power?: string) => {
        const by = MM[units.length] ** (power === '³' ? 3 : power === '²' ? 2 : 1);
        const turned = numbers.replace(new RegExp(number, 'g'), (n) =>
            figure(Number(n.replace(/\u2009/g, '')) / by),
        );
        return `${turned} ${units.length}${power ?? ''}`;
    });
}
/** A share as percent. */
export const percent = (share: number) =>
    share > 0 && share < 1e-4 ? '< 0.01 %' : `${figure(share * 100)} %`;
export const seconds = (s: number) => (s < 0.1 ? '< 0.1 s' : `${s.toFixed(1)} s`);
export const size = (xyz: readonly number[]) =>
    `${xyz.map((x) => figure(x / MM[units.length])).join(' × ')} ${units.length}`;
export const whole = (n: number) => n.toString().replace(/\B(?=(\d{3})+(?!\d))/g, '\u2009');
export const bytes = (n: number) =>
    n >= 1e6 ? `${figure(n / 1e6)} MB` : n >= 1e3 ? `${figure(n / 1e3)} kB` : `${n} B`;

export interface ForecastRow {
    label: string;
    before: string;
    after: string;
    /** Whether the change helps, harms or is neither. */
    change: 'better' | 'worse' | 'other' | 'none';
}

/** The forecast table: what changes, and the figures a person always wants to see. */
export function forecastRows(
    before: Figures,
    after: Figures,
    largestMove: number,
    surface: Report['change'],
    gramsEach?: number | null,
): ForecastRow[] {
    const rows: ForecastRow[] = [];
    const sealed = (f: Figures) => f.state === 'sealed';
    rows.push({
        label: 'State',
        before: before.state,
        after: after.state,
        change:
            before.state === after.state
                ? 'none'
                : sealed(after)
                  ? 'better'
                  : sealed(before)
                    ? 'worse'
                    : 'other',
    });
    const faults: [string, (f: Figures) => number, boolean][] = [
        ['Naked edges', (f) => f.naked_edges, true],
        ['Rims', (f) => f.rims, true],
        ['Gaps', (f) => f.gaps, false],
        ['Edges of three or more', (f) => f.crowded_edges, false],
        ['Edges where sides disagree', (f) => f.clashing_edges, false],
        ['Shells inside out', (f) => f.inside_out_shells, false],
        ['Tangles', (f) => f.tangles ?? 0, false],
        ['Crossing pairs', (f) => f.crossing_pairs, false],
        ['Duplicates', (f) => f.duplicates, false],
        ['Triangles without area', (f) => f.degenerate, false],
    ];
    for (const [label, get, always] of faults) {
        const [b, a] = [get(before), get(after)];
        if (!always && a === 0 && b === 0) continue;
        rows.push({
            label,
            before: whole(b),
            after: whole(a),
            change: a < b ? 'better' : a > b ? 'worse' : 'none',
        });
    }
    const plain = (label: string, get: (f: Figures) => string) => {
        const [b, a] = [get(before), get(after)];
        rows.push({ label, before: b, after: a, change: a === b ? 'none' : 'other' });
    };
    plain('Naked length', (f) => millimetres(f.naked_length));
    plain('Volume', (f) => (f.volume == null ? 'none' : volume(f.volume)));
    const weighs = (f: Figures) => (f.volume ?? 0) * (gramsEach ?? 0);
    if (gramsEach && before.volume != null && after.volume != null) {
        const [b, a] = [weighs(before), weighs(after)];
        const more = a === b ? '' : ` (${a > b ? '+' : '\u2212'}${mass(Math.abs(a - b))})`;
        rows.push({
            label: 'Mass',
            before: mass(b),
            after: mass(a) + more,
            change: a === b ? 'none' : 'other',
        });
    }
    plain('Least wall', (f) => (f.least_wall == null ? 'none' : millimetres(f.least_wall)));
    plain('Area', (f) => area(f.area));
    plain('Shells', (f) => whole(f.shells));
    plain('Triangles', (f) => whole(f.triangles));
    // What was there and moved, what came and what went are three things, each with how far it is from the rest.
    const came = (label: string, far: number) =>
        rows.push({ label, before: '', after: millimetres(far), change: far > 0 ? 'other' : 'none' });
    came('Points moved, at most', largestMove);
    if (surface) {
        came('What is added, off what was', surface.away ?? 0);
        came('What is gone, off what is left', surface.back ?? 0);
        const added: ForecastRow = {
            label: 'Triangles added, removed',
            before: '',
            after: `${whole(surface.triangles_added)}, ${whole(surface.triangles_removed)}`,
            change: 'none',
        };
        if (surface.triangles_added + surface.triangles_removed) rows.push(added);
    }
    return rows;
}
