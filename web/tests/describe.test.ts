// Forms from descriptions: what is drawn, when it counts, what it may be.
import { describe, expect, test } from 'vitest';
import {
    blank,
    chosen,
    counts,
    fieldOf,
    fieldsOf,
    valueAt,
    withAt,
    wrongFigure,
    type Described,
} from '../src/tools/fields/describe';

const length: Described = { type: 'number', unit: 'mm', exclusiveMinimum: 0 };
const face: Described = { asks: 'face', anyOf: [{ type: 'array' }, { type: 'object' }] };
const tool: Described = {
    type: 'object',
    properties: {
        kind: { const: 'wall.tried' },
        wall: { ...length, title: 'How thick' },
        chord: { ...length, type: ['number', 'null'], empty: 'by the size', folded: true },
        open: { type: 'array', items: face },
        on: { anyOf: [face, { type: 'null' }], hint: 'Click it.' },
        up: { type: 'array', asks: 'direction' },
        at: { type: 'array', asks: 'position' },
        with: { type: 'array', items: { type: 'integer', asks: 'part' } },
        less: { type: ['integer', 'null'], asks: 'part' },
        may_cross: { type: 'boolean' },
        inner: { type: 'array', asks: 'none' },
        what: {
            default: 'all',
            oneOf: [
                { const: 'all', title: 'All of it', description: 'Everything.' },
                { type: 'object', properties: { faces: { type: 'array', items: face } } },
                { type: 'object', properties: { ball: { type: 'object', asks: 'brush' } } },
                { type: 'object', properties: { cone: { type: 'object', properties: { angle: length } } } },
            ],
        },
        height: { ...length, when: { '/what': 'all' } },
        rounds: { type: 'integer', minimum: 1, maximum: 8, when: { '/open/0': true } },
    },
};
const named = Object.fromEntries(fieldsOf(tool).map((f) => [f.name, f]));

test('each parameter is drawn as what it is, in order', () => {
    expect(fieldsOf(tool).map((f) => `${f.name} ${f.kind}`)).toEqual([
        'wall figure',
        'chord figure',
        'open picks',
        'on picks',
        'up direction',
        'at xyz',
        'with parts',
        'less part',
        'may_cross flag',
        'inner none',
        'what choice',
        'height figure',
        'rounds figure',
    ]);
    expect(named.wall!.label).toBe('How thick');
    expect(named.may_cross!.label).toBe('May cross');
    expect([named.open!.many, named.on!.many, named.on!.optional]).toEqual([true, false, true]);
    expect(named.on!.described.hint).toBe('Click it.');
    expect([named.chord!.optional, named.wall!.optional]).toEqual([true, false]);
});

test('choices begin with what they need, where that can be made up', () => {
    const what = named.what!;
    expect(what.choices.map((c) => c.label)).toEqual(['All of it', 'Faces', 'Ball', 'Cone']);
    expect(what.choices.map((c) => blank(c))).toEqual([
        'all',
        { faces: [] },
        undefined,
        { cone: { angle: 10 } },
    ]);
    expect(chosen(what, { faces: [[1, 2, 3]] })?.value).toBe('faces');
    expect(chosen(what, 'all')?.value).toBe('all');
    expect(chosen(what, undefined)).toBeUndefined();
});

test('parameters count only when what they hang on is so', () => {
    const of = (step: unknown) => [counts(named.height!, step), counts(named.rounds!, step)];
    expect(of({ what: 'all', open: [] })).toEqual([true, false]);
    expect(of({ what: { faces: [] }, open: [[0, 0, 0]] })).toEqual([false, true]);
    const unless = fieldOf('x', ['x'], { type: 'boolean', when: { '/sampled': false } });
    expect([null, undefined, 0.5].map((sampled) => counts(unless, { sampled }))).toEqual([true, true, false]);
});

test('values are put into a step without touching it', () => {
    const step = { kind: 'wall.tried', what: { cone: { angle: 3 } } };
    const other = withAt(step, ['what', 'cone', 'angle'], 4);
    expect(valueAt(other, ['what', 'cone', 'angle'])).toBe(4);
    expect(valueAt(step, ['what', 'cone', 'angle'])).toBe(3);
    expect(valueAt(step, ['what', 'none', 'angle'])).toBeUndefined();
});

describe('figures', () => {
    test.each([
        [length, 2, ''],
        [length, 0, 'Above 0 mm'],
        [length, -1, 'Above 0 mm'],
        [{ type: 'number', unit: 'mm', minimum: 0 }, -0.5, 'Not below 0'],
        [{ type: 'number', unit: 'mm', not: { const: 0 } }, 0, 'Not 0 mm'],
        [{ type: 'number', unit: '°', exclusiveMinimum: 0, maximum: 180 }, 181, 'At most 180°'],
        [{ type: 'integer', minimum: 1, maximum: 8 }, 9, 'At most 8'],
        [{ type: 'integer', minimum: 1, maximum: 8 }, 0, 'From 1 to 8'],
        [{ type: 'integer', minimum: 1 }, 2.5, 'A whole number is needed here'],
        [{}, -3, ''],
    ] as [Described, number, string][])('%j at %d: "%s"', (d, x, wanted) =>
        expect(wrongFigure(d, x)).toBe(wanted),
    );
    test('limits are told in the unit that is shown', () =>
        expect(wrongFigure({ type: 'number', maximum: 254 }, 300, 1 / 25.4, 'in')).toBe('At most 10 in'));
});

test('a parameter that counts with another one counts by what that is when it is left out', () => {
    const whole = {
        properties: {
            until: { default: 'figures', oneOf: [{ const: 'figures' }, { const: 'through' }] },
            above: { type: 'number', when: { '/until': 'figures' } },
        },
    };
    const above = fieldsOf(whole as never).find((f) => f.name === 'above')!;
    expect(counts(above, {})).toBe(true);
    expect(counts(above, { until: 'figures' })).toBe(true);
    expect(counts(above, { until: 'through' })).toBe(false);
});
