import { expect, test } from 'vitest';
import { isOf } from '../src/board/carried';
import { without } from '../src/board/compare';
import { figureText, kindOf, withFigure } from '../src/board/draughts';

const of = (text: string, figure: number | null = null, unit = '', before = '') => ({
    text,
    figure,
    unit,
    before,
});

test('figures are written with their unit, rules by their kind', () => {
    expect(figureText(of('length of a  40', 40, 'mm'))).toBe('40 mm');
    expect(figureText(of('diameter of b  6.6', 6.6, 'mm', '⌀ '))).toBe('⌀ 6.6 mm');
    expect(figureText(of('angle of a  30', 30.00000001, '°'))).toBe('30°');
    expect(figureText(of('same size b and c'))).toBe('same size');
    expect(['in line a and b', 'level a', 'mirrored end of a and end of b in c'].map(kindOf)).toEqual([
        'in line',
        'level',
        'mirrored',
    ]);
});

test('another figure takes the place of the last word', () => {
    expect(withFigure('length of a.1  40', 12.5)).toBe('length of a.1  12.5');
    expect(withFigure('corner of back a and b  60.25', 90)).toBe('corner of back a and b  90');
});

test('what comes and goes is told by the lines and their places', () => {
    const curve = (line: string, ...points: number[][]) => ({ name: line, line, points });
    const before = [curve('a', [0, 0], [9, 0]), curve('b', [0, 0], [0, 5])];
    const after = [curve('a', [0, 0], [4, 0]), curve('b', [0, 0], [0, 5])];
    expect(without(before, after).map((c) => c.points.at(-1))).toEqual([[9, 0]]);
    expect(without(after, before).map((c) => c.points.at(-1))).toEqual([[4, 0]]);
    expect(without(before, before)).toEqual([]);
});

test('lines carried down are those with their name and a number', () => {
    const line = (name: string, still = true) => ({ name, still });
    expect(isOf(line('ka12'), 'ka')).toBe(true);
    expect(isOf(line('ka12', false), 'ka')).toBe(false);
    expect(isOf(line('kab1'), 'ka')).toBe(false);
    expect(isOf(line('kb1'), 'ka')).toBe(false);
});
