// Of the threads of a job, the two that are likeliest meant to go together.
import type { Schemas } from './api/client';

/** A thread of a part of the job. */
export interface Held {
    part: number;
    partName: string;
    thread: Schemas['PartThread'];
}

export const keyOf = (h: Held) => `${h.part} ${h.thread.step} ${h.thread.mark.face}`;

const isAlike = (a: Held, b: Held) =>
    a.thread.mark.pitch === b.thread.mark.pitch &&
    !!a.thread.mark.thread.left === !!b.thread.mark.thread.left;

/** The bore and the pin last touched, of one pitch and hand if there are such; with `fresh` as one of them. */
export function pairOf(
    all: readonly Held[],
    fresh: Held | null,
): { bore: Held; pin: Held; alike: boolean } | null {
    const side = (gender: 'internal' | 'external') =>
        fresh?.thread.mark.gender === gender ? [fresh] : all.filter((h) => h.thread.mark.gender === gender);
    const pairs = side('internal').flatMap((bore) =>
        side('external').map((pin) => ({ bore, pin, alike: isAlike(bore, pin) })),
    );
    const touched = ({ bore, pin }: { bore: Held; pin: Held }) => [
        Math.max(bore.thread.step, pin.thread.step),
        Math.min(bore.thread.step, pin.thread.step),
    ];
    return (
        pairs.sort((x, y) => {
            const [a, b] = [touched(x), touched(y)];
            return Number(y.alike) - Number(x.alike) || b[0]! - a[0]! || b[1]! - a[1]!;
        })[0] ?? null
    );
}
