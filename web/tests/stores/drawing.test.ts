// The board and the hand over it: strokes in order, taken back and made again; what quarrels; what is typed while it is drawn.
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Action } from '../../src/api/client';
import { useBoard, type Change } from '../../src/stores/board';
import { useForecast } from '../../src/stores/forecast';
import { useForesight } from '../../src/stores/foresight';
import { useHolding } from '../../src/stores/holding';
import { useJob } from '../../src/stores/job';
import { usePen } from '../../src/stores/pen';
import { done, job, Refused, serving, settled, type Asked, type FakeServer } from '../fakeServer';

interface Line {
    name: string;
}
interface Board {
    lines: Line[];
    holds: Line[];
    change: Record<string, never> | null;
    hand: {
        at: number[];
        does: { draw?: { clicks: unknown[]; typed: Record<string, number> } } | null;
    } | null;
    chosen: string[];
    let_go: string[];
}
let server: FakeServer;
let drawn = 0;

/** As the core would answer: what is drawn has a name, a rule called q quarrels with what is drawn until it is let go. */
function answered({ body }: Asked) {
    const { board } = body as { board: Board };
    let { lines, holds } = board;
    const change = board.change as {
        draw?: { draw: Line[] };
        remove?: { lines: string[] };
        let_go?: { holds: string[] };
    } | null;
    const gone = [...board.let_go, ...(change?.let_go?.holds ?? [])];
    holds = holds.filter((h) => !gone.includes(h.name));
    const quarrel = change?.draw ? holds.filter((h) => h.name === 'q') : [];
    if (change?.draw) lines = [...lines, ...change.draw.draw.map(() => ({ name: `a${++drawn}` }))];
    if (change?.remove) lines = lines.filter((l) => !change.remove!.lines.includes(l.name));
    const clicks = board.hand?.does?.draw?.clicks ?? [];
    const hand = board.hand && {
        at: board.hand.at,
        caught: '',
        figures: [{ name: 'across' }, { name: 'along' }],
        // A line of two clicks.
        last: clicks.length === 1,
        shape: clicks.length === 1 ? { segment: {} } : null,
    };
    const view = {
        lines,
        holds,
        quarrel,
        hand,
        curves: lines.map((l) => ({ ...l, line: l.name, points: [[0, 0]] })),
        done: change ? 'drawn' : undefined,
        offers: [],
    };
    return { board: view };
}

beforeEach(() => {
    vi.stubGlobal('window', globalThis);
    drawn = 0;
    server = serving(() => job());
    server.on('GET', '/kinds', () => []);
    server.on('GET', '/jobs/one/tools', () => []);
    server.on('POST', '/boards', answered);
    server.on('POST', '/jobs/one/forecasts', () =>
        done({ mesh: 'm', report: { made: [], left: [] }, later: [] }),
    );
});

// What would be forecast a moment later is not, in the midst of another test.
afterEach(async () => {
    useForecast().cancel();
    await settled();
});

async function drawing(holds: Line[] = []) {
    await useJob().open('one');
    const board = useBoard();
    const plane = { at: [0, 0, 0], normal: [0, 0, 1] };
    const action = { kind: 'shape.profile', plane, lines: [], holds, carried: [] } as unknown as Action;
    useForecast().begin('Profile', action);
    await settled();
    return { board, pen: usePen(), names: () => board.lines.map((l) => l.name) };
}
const line = { draw: { draw: [{ segment: {} }] } } as unknown as Change;

describe('strokes', () => {
    test('are made one after the other, however fast they come, and taken back one by one', async () => {
        const { board, names } = await drawing();
        const all = await Promise.all([board.change(line), board.change(line), board.change(line)]);
        expect([all, names()]).toEqual([
            [true, true, true],
            ['a1', 'a2', 'a3'],
        ]);
        board.undo();
        board.undo();
        expect(names()).toEqual(['a1']);
        board.redo();
        expect(names()).toEqual(['a1', 'a2']);
        await settled();
        // What is shown is what stands, and each stroke was asked for once.
        const strokes = server.of('POST', '/boards').filter((a) => (a.body as { board: Board }).board.change);
        expect([strokes.length, server.of('POST', '/boards').length]).toEqual([3, 1 + 3 + 3]);
        expect(board.view?.lines.map((l) => l.name)).toEqual(['a1', 'a2']);
        // A new stroke ends what could be made again.
        await board.change(line);
        board.redo();
        expect(names()).toEqual(['a1', 'a2', 'a4']);
        for (let n = 0; n < 9; n++) board.undo();
        expect(names()).toEqual([]);
    });

    test('that cannot be made change nothing and say why', async () => {
        const { board, names } = await drawing();
        await board.change(line);
        server.on('POST', '/boards', () => new Refused('refused', 'The arc has no radius.'));
        expect(await board.change(line)).toBe(false);
        expect([names(), board.trouble, board.past.length]).toEqual([['a1'], 'The arc has no radius.', 1]);
        server.on('POST', '/boards', answered);
        expect(await board.change(line)).toBe(true);
        expect(board.trouble).toBe('');
    });

    test('that quarrel with a rule wait until it is let go', async () => {
        const { board, names } = await drawing([{ name: 'q' }, { name: 'r' }]);
        expect(await board.change(line)).toBe(false);
        expect(board.quarrel?.contenders.map((c) => c.name)).toEqual(['q']);
        expect(names()).toEqual([]);
        await board.letGo('q');
        expect([names(), board.quarrel, board.drawing.holds.map((h) => h.name)]).toEqual([
            ['a2'],
            null,
            ['r'],
        ]);
        // One stroke: line and rule come and go together.
        board.undo();
        expect([names(), board.drawing.holds.map((h) => h.name)]).toEqual([[], ['q', 'r']]);
    });

    test('take what is chosen with them when it goes', async () => {
        const { board, names } = await drawing([{ name: 'r' }]);
        await board.change(line);
        await board.change(line);
        board.choose('a1');
        board.choose('a2', true);
        board.choose('a2', true);
        expect(board.chosen).toEqual(['a1']);
        await board.removeChosen();
        expect([names(), board.chosen]).toEqual([['a2'], []]);
        board.choose('r');
        await board.removeChosen();
        expect(board.drawing.holds).toEqual([]);
    });

    test('are forecast a moment later, or at once when the step is applied', async () => {
        const { board } = await drawing();
        await board.change(line);
        const forecast = useForecast();
        expect(server.of('POST', '/jobs/one/forecasts')).toEqual([]);
        expect(forecast.typed.size).toBe(1);
        forecast.tellTyped();
        await settled();
        expect(forecast.typed.size).toBe(0);
        expect(server.of('POST', '/jobs/one/forecasts')).toHaveLength(1);
        // A drawing that is put away takes its strokes with it.
        forecast.cancel();
        await settled();
        expect([board.past, board.view, board.chosen]).toEqual([[], null, []]);
    });
});

describe('the hand', () => {
    const at = (x: number, y: number) => ({ at: [x, y] as [number, number], reach: 1, grid: 0, does: null });

    test('draws a line of two clicks, with the figure that was typed between', async () => {
        const { pen, names } = await drawing();
        pen.take('circle');
        const clicked = [pen.click(at(0, 0)), ...[...'12,5'].map((key) => pen.type(key)), pen.enter()];
        await Promise.all(clicked);
        const typed = server
            .of('POST', '/boards')
            .map((a) => (a.body as { board: Board }).board.hand?.does?.draw?.typed ?? {});
        expect(typed).toContainEqual({ across: 12.5 });
        expect(names()).toEqual(['a1']);
        expect([pen.clicks, pen.typed, pen.writing]).toEqual([[], {}, '']);
    });

    test('types into the next figure after Tab, and takes back what was typed', async () => {
        const { pen } = await drawing();
        pen.take('frame');
        await pen.click(at(0, 0));
        await pen.type('7');
        await pen.tab(1);
        await pen.type('3');
        expect(pen.typed).toEqual({ across: 7, along: 3 });
        await pen.type('Backspace');
        expect(pen.typed).toEqual({ across: 7 });
        await pen.type('-');
        expect(pen.typed).toEqual({ across: 7 });
        await pen.tab(1);
        expect(pen.figure).toBe(0);
    });

    test('lets go step by step: of the line, of the pen, of what is chosen, never of the drawing', async () => {
        const { board, pen, names } = await drawing();
        await board.change(line);
        pen.take('circle');
        await pen.click(at(1, 1));
        expect(pen.drawing()).toBe(true);
        expect([pen.escape(), pen.clicks.length, pen.pen]).toEqual([true, 0, 'circle']);
        expect([pen.escape(), pen.pen]).toEqual([true, null]);
        board.choose('a1');
        expect([pen.escape(), board.chosen]).toEqual([true, []]);
        // There is a drawing: Escape does not put it away.
        expect([pen.escape(), names()]).toEqual([true, ['a1']]);
        board.undo();
        expect(pen.escape()).toBe(false);
    });

    test('asks only about where it is now', async () => {
        const { pen } = await drawing();
        pen.take('circle');
        await settled();
        const before = server.of('POST', '/boards').length;
        await Promise.all([1, 2, 3, 4, 5, 6].map((x) => pen.point(at(x, 0))));
        const asked = server.of('POST', '/boards').slice(before);
        expect(asked.map((a) => (a.body as { board: Board }).board.hand?.at[0])).toEqual([1, 6]);
        expect(pen.hand?.at).toEqual([6, 0]);
    });

    test('aims where it clicks: two ends of a flow, a stroke to cut along', async () => {
        const { pen } = await drawing();
        pen.takeAim('flow');
        expect(await pen.clickAt([1, 2])).toBe(true);
        expect(pen.aimed([3, 4])).toMatchObject({
            flow: {
                between: [
                    [1, 2],
                    [3, 4],
                ],
                even: true,
            },
        });
        await pen.clickAt([3, 4]);
        expect(pen.aimed([3, 4])).toBeNull();
        pen.takeAim('cut_back');
        expect(pen.aimed([1, 2], [5, 6])).toEqual({ cut_back: { at: [1, 2], to: [5, 6] } });
        expect(pen.aimed([1, 2])).toEqual({ cut_back: { at: [1, 2] } });
        pen.takeAim('split');
        expect(pen.aimed([1, 2])).toEqual({ split: { at: [1, 2] } });
        pen.takeAim('hold');
        expect(await pen.clickAt([1, 2])).toBe(false);
    });
});

test('what a change would make is shown before it is made, of the newest change only', async () => {
    const { board } = await drawing();
    await board.change(line);
    const foresight = useForesight();
    await Promise.all([foresight.foresee(line), foresight.foresee({ remove: { lines: ['a1'] } } as Change)]);
    await settled();
    expect([foresight.coming, foresight.going.map((c) => c.name)]).toEqual([[], ['a1']]);
    server.on('POST', '/boards', () => new Refused('refused', 'Nothing is there.'));
    await foresight.foresee(line);
    expect([foresight.told, foresight.coming]).toEqual(['Nothing is there.', []]);
    await foresight.foresee(null);
    expect(foresight.told).toBe('');
});

test('what is to be held is what is pointed at: three things at most, each once', async () => {
    const { board } = await drawing();
    const holding = useHolding();
    usePen().takeAim('hold');
    await settled();
    const offer = { text: 'distance a1, a2 = 5', holds: true };
    server.on('POST', '/boards', (asked) => {
        const got = answered(asked);
        return { board: { ...got.board, offers: [offer] } };
    });
    ['a1', 'a2', 'a3', 'a4', 'a2'].forEach((thing) => holding.toggle(thing));
    expect(holding.things).toEqual(['a3', 'a4']);
    await settled();
    expect(holding.offers).toEqual([offer]);
    await holding.hold(offer as never, 7);
    const held = server.of('POST', '/boards').map((a) => (a.body as { board: Board }).board.change);
    expect(held).toContainEqual({ hold: { text: 'distance a1, a2 = 7' } });
    expect([holding.things, board.trouble]).toEqual([[], '']);
});
