import { expect, test } from 'vitest';
import type { Finding } from '../src/api/client';
import { causesOf } from '../src/stores/causes';

const finding = (kind: string, key: string, size = '1 mm') =>
    ({ kind, key, title: `${kind} ${key}`, size }) as unknown as Finding;

test('only what the step makes worse is told, with its worst place', () => {
    const before = [finding('thin_wall', 'a'), finding('inner_corner', 'i1')];
    const then = {
        findings: [
            finding('thin_wall', 'b', '0.4 mm'),
            finding('thin_wall', 'a'),
            finding('inner_corner', 'i1'),
            finding('undrained', 'v'),
        ],
        since: { b: 0, a: 3 },
    };
    const causes = causesOf(before, then as never);
    expect(causes.map((c) => [c.kind, c.before, c.after, c.worst?.key])).toEqual([
        ['thin_wall', 1, 2, 'b'],
        ['undrained', 0, 1, 'v'],
    ]);
});

test('as many thin places, but another one: told', () => {
    const then = { findings: [finding('thin_wall', 'new')], since: { new: 0 } };
    expect(causesOf([finding('thin_wall', 'old')], then as never)).toHaveLength(1);
    expect(causesOf([finding('thin_wall', 'old')], { findings: [], since: {} } as never)).toEqual([]);
});
