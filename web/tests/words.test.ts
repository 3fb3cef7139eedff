// Figures in words and units; findings gathered.
import { afterEach, describe, expect, test } from 'vitest';
import {
    area,
    figure,
    forecastRows,
    liquid,
    mass,
    millimetres,
    percent,
    told,
    units,
    volume,
} from '../src/format';
import { groupFindings } from '../src/findings';

afterEach(() => Object.assign(units, { length: 'mm', volume: 'mm³', mass: 'g' }));

describe('figures', () => {
    test.each([
        [0, '0'],
        [-0.0000001, '0'],
        [1234567.8, '1\u2009234\u2009568'],
        [12.3456, '12.35'],
        [0.012345, '0.0123'],
        [0.0012346, '0.001235'],
        [-3.5, '-3.5'],
        [100, '100'],
    ])('%d is %s', (x, text) => expect(figure(x)).toBe(text));
});

test('units are those chosen, and known by heart', () => {
    units.length = 'in';
    units.volume = 'fl oz';
    units.mass = 'ct';
    expect(millimetres(25.4)).toBe('1 in');
    expect(area(645.16)).toBe('1 in²');
    expect(volume(29573.5295625)).toBe('1 fl oz');
    expect(mass(1)).toBe('5 ct');
    units.volume = 'mm³';
    expect(liquid(2500)).toBe('2.5 ml');
});

test('what the server says turns with the unit, each figure of a row of them', () => {
    const text = 'sized 25.4 × 50.8 × 254 mm, area 645.16 mm², step 12 leaves 1\u2009270 mm';
    expect(told(text)).toBe(text);
    units.length = 'in';
    expect(told(text)).toBe('sized 1 × 2 × 10 in, area 1 in², step 12 leaves 50 in');
});

test('a small share is not none', () =>
    expect([0, 0.00001, 0.1234].map(percent)).toEqual(['0 %', '< 0.01 %', '12.34 %']));

test('a forecast says what is better and what is worse', () => {
    const figures = (over: object) => ({
        state: 'open',
        naked_edges: 0,
        rims: 0,
        gaps: 0,
        crowded_edges: 0,
        clashing_edges: 0,
        inside_out_shells: 0,
        crossing_pairs: 0,
        duplicates: 0,
        degenerate: 0,
        naked_length: 0,
        volume: null,
        area: 1,
        shells: 1,
        triangles: 4,
        ...over,
    });
    const rows = forecastRows(
        figures({ naked_edges: 12, gaps: 2, area: 5 }) as never,
        figures({ state: 'sealed', crossing_pairs: 3, volume: 8 }) as never,
        0.25,
        undefined as never,
    );
    const of = (label: string) => rows.find((r) => r.label === label);
    expect(of('State')).toMatchObject({ before: 'open', after: 'sealed', change: 'better' });
    expect(of('Naked edges')).toMatchObject({ before: '12', after: '0', change: 'better' });
    expect(of('Crossing pairs')).toMatchObject({ change: 'worse' });
    expect(of('Volume')).toMatchObject({ before: 'none', after: '8 mm³', change: 'other' });
    expect(of('Points moved, at most')).toMatchObject({ after: '0.25 mm' });
    expect(of('Duplicates')).toBeUndefined();
    expect(of('Mass')).toBeUndefined();
    // Of a solid with a material: what it weighs more, or less.
    const solid = (volume: number) => figures({ state: 'sealed', volume }) as never;
    const weighed = (after: number, each: number | null) =>
        forecastRows(solid(1000), solid(after), 0, undefined as never, each).find((r) => r.label === 'Mass');
    expect(weighed(1010, 0.0088)).toMatchObject({
        before: '8.8 g',
        after: '8.888 g (+0.088 g)',
        change: 'other',
    });
    expect(weighed(500, 0.0088)?.after).toBe('4.4 g (\u22124.4 g)');
    expect(weighed(1000, 0.0088)).toMatchObject({ after: '8.8 g', change: 'none' });
    expect(weighed(1010, null)).toBeUndefined();
});

test('findings are gathered by kind in their order, many folded, one remedy for all', () => {
    const finding = (kind: string) => ({ kind }) as never;
    const all = [finding('rim'), ...Array.from({ length: 13 }, () => finding('gap')), finding('rim')];
    const groups = groupFindings(all, { gaps: [{ reach: 0.1 }, { reach: 0.4 }] } as never);
    expect(groups.map((g) => [g.title, g.many])).toEqual([
        ['2 rims', false],
        ['13 gaps', true],
    ]);
    expect(groups[1]!.forAll!.action).toEqual({ kind: 'seal.close_gaps', reach: 0.4 });
    expect(groupFindings([finding('void')], null)[0]!.forAll).toBeNull();
});
