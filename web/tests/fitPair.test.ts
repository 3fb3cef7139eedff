import { expect, test } from 'vitest';
import { keyOf, pairOf, type Held } from '../src/fitPair';

const held = (part: number, step: number, gender: string, pitch: number, left = false): Held =>
    ({
        part,
        partName: `part ${part}`,
        thread: { step, mark: { gender, pitch, face: 1, thread: { left } } },
    }) as unknown as Held;

test('the sides of a fit are those last touched, of one pitch and hand', () => {
    const all = [
        held(1, 3, 'internal', 1),
        held(1, 9, 'internal', 1.5),
        held(2, 4, 'external', 1),
        held(2, 6, 'external', 1, true),
        held(2, 5, 'external', 1),
    ];
    const pair = pairOf(all, null)!;
    expect([keyOf(pair.bore), keyOf(pair.pin), pair.alike]).toEqual(['1 3 1', '2 5 1', true]);
});

test('a thread that was just made is one of them, whether anything goes with it or not', () => {
    const fresh = held(1, 9, 'internal', 1.5);
    const all = [held(1, 3, 'internal', 1), fresh, held(2, 4, 'external', 1)];
    const pair = pairOf(all, fresh)!;
    expect([pair.bore, pair.pin.thread.step, pair.alike]).toEqual([fresh, 4, false]);
    expect(pairOf([fresh], fresh)).toBeNull();
    expect(pairOf([], null)).toBeNull();
});
