// The pointer and the keys over the board.
import { onMounted, onUnmounted, watch, type ShallowRef } from 'vue';
import { useBench } from '../stores/bench';
import { useBoard } from '../stores/board';
import { usePen, type Pen } from '../stores/pen';
import { useForecast } from '../stores/forecast';
import { useForesight } from '../stores/foresight';
import { useHolding } from '../stores/holding';
import { useProfiles } from '../stores/profiles';
import type { Bench } from '../viewport/bench';
import { dropped, lifted, normalOf, paperOf, roundLength, type BoardView, type Flat } from './plane';

/** How far the pointer catches and takes hold, pixels. */
const REACH = 10;
/** A drag is one beyond this, pixels. */
const DRAG = 5;
/** Free places are rounded to a length at least so long on the screen, pixels. */
const GRID = 4;

export const penKeys: Record<string, Pen> = {
    l: 'chain',
    a: 'arc',
    o: 'circle',
    q: 'frame',
    s: 'slot',
    g: 'polygon',
    e: 'ellipse',
    v: 'curve',
    i: 'spiral',
};

export function useBoardHand(view: ShallowRef<Bench | null>) {
    const board = useBoard();
    const pen = usePen();
    const bench = useBench();
    const profiles = useProfiles();
    const holding = useHolding();
    const foresight = useForesight();
    const forecast = useForecast();
    let grip: { line: string; handle: string } | null = null;
    let down: [number, number] | null = null;

    const frame = (): BoardView | null => board.view ?? profiles.view;
    function flat(x: number, y: number): Flat | null {
        const f = frame();
        const at = f && view.value?.probe.onPlane(x, y, f.origin as [number, number, number], normalOf(f));
        return f && at ? dropped(f, at) : null;
    }
    /** How many pixels a millimetre of the board is there. */
    const scale = (at: Flat) => view.value?.pixels(lifted(frame()!, at), 1) || 1;

    function handleAt(x: number, y: number) {
        const f = board.view;
        if (!f) return null;
        const off = ({ at }: { at: readonly number[] }) => {
            const on = view.value?.onScreen(lifted(f, at));
            return on ? Math.hypot(on.x - x, on.y - y) : Infinity;
        };
        // Those of what is chosen first.
        const rank = (h: { line: string }) => (board.chosen.includes(h.line) ? 0 : 1);
        return (
            f.handles
                .map((h) => ({ h, off: off(h) }))
                .filter((h) => h.off <= REACH)
                .sort((a, b) => rank(a.h) - rank(b.h) || a.off - b.off)[0]?.h ?? null
        );
    }

    function where(x: number, y: number, free: boolean) {
        const at = flat(x, y);
        if (!at) return null;
        const px = scale(at);
        return {
            at: [...at] as [number, number],
            reach: free ? 0 : REACH / px,
            grid: free ? 0 : roundLength(GRID / px),
        };
    }

    function press(event: PointerEvent, x: number, y: number) {
        down = [x, y];
        grip = event.button === 0 && board.on && !pen.pen && !pen.aim ? handleAt(x, y) : null;
    }

    function move(event: PointerEvent, x: number, y: number) {
        const to = where(x, y, event.altKey);
        if (!to) return;
        if (!board.on) return void (profiles.under = flat(x, y));
        const dragging = down && event.buttons & 1 && Math.hypot(x - down[0], y - down[1]) > DRAG;
        if (grip && dragging) void pen.point({ ...to, does: { drag: grip } });
        else if (!event.buttons || pen.pen) {
            if (pen.pen === 'chain' && pen.clicks.length) pen.round = !!dragging || pen.bends;
            void point(to);
        }
    }
    /** Points there; what a click would change is shown beforehand. */
    async function point(to: NonNullable<ReturnType<typeof where>>) {
        await pen.point({ ...to, does: pen.doing() });
        if (pen.aim && pen.aim !== 'hold' && !pen.pen) void foresight.foresee(pen.aimed(placed(to.at)));
    }
    /** Where an aim is taken: what was caught, but for a region the place itself. */
    const placed = (at: Flat): Flat =>
        pen.hand?.caught && pen.aim !== 'keep_region' ? (pen.hand.at as unknown as Flat) : at;

    async function release(event: PointerEvent, x: number, y: number) {
        const from = down;
        down = null;
        if (event.button !== 0 || !from) return;
        const dragged = Math.hypot(x - from[0], y - from[1]) > DRAG;
        if (grip && dragged) {
            grip = null;
            return pen.letGo();
        }
        grip = null;
        const to = where(x, y, event.altKey);
        if (!to) return;
        if (!board.on) return profiles.clickAt(to.at);
        if (pen.pen) {
            return pen.click(to);
        }
        if (dragged) {
            const begin = where(...from, true);
            if (pen.aim === 'cut_back' && begin) await pen.clickAt(begin.at, to.at);
            return;
        }
        await pen.point(to);
        const { hand } = pen;
        if (pen.aim === 'hold') return holding.takeUnder();
        if (pen.aim) {
            forecast.tellTyped();
            return void (hand && pen.clickAt(placed(to.at)));
        }
        board.choose(hand?.over ?? null, event.shiftKey);
    }

    /** A key the board has a use for. */
    function heard(event: KeyboardEvent): boolean {
        if (!board.on || event.altKey) return false;
        const { key } = event;
        if (event.ctrlKey || event.metaKey) {
            if (key === 'z') void (pen.drop() || board.undo());
            else if (key === 'Z' || key === 'y') board.redo();
            else return false;
            return true;
        }
        const drawing = pen.drawing();
        if (drawing && /^[-0-9.,]$|^Backspace$/.test(key)) pen.type(key);
        else if (drawing && key === 'Tab') pen.tab(event.shiftKey ? -1 : 1);
        else if (key === 'Enter' && drawing) void pen.enter();
        else if (key === 't' && pen.pen === 'chain') {
            pen.bends = !pen.bends;
            pen.round = pen.bends && pen.clicks.length > 0;
            void pen.again();
        } else if (key === 'Escape') return pen.escape();
        else if ((key === 'Delete' || key === 'Backspace') && board.chosen.length) void board.removeChosen();
        else if (penKeys[key]) pen.take(penKeys[key]);
        else if (key === 'h') pen.takeAim(pen.aim === 'hold' ? null : 'hold');
        else if (key === 'r') board.rulesShown = !board.rulesShown;
        else if (key === 'k') board.squares++;
        else return false;
        return true;
    }
    onMounted(() => (board.heard = heard));
    onUnmounted(() => (board.heard = null));

    /** Looks square at the paper. */
    function square() {
        const [target, f] = [view.value, frame()];
        if (!target || !f) return;
        const drawn = f.curves.flatMap((c) => c.points as unknown as Flat[]);
        const { least, most } = paperOf(drawn.length ? drawn : partOn(f));
        const middle: Flat = [(least[0] + most[0]) / 2, (least[1] + most[1]) / 2];
        const radius = Math.hypot(most[0] - least[0], most[1] - least[1]) / 2;
        target.lookSquare(lifted(f, middle), normalOf(f), radius);
    }
    /** Where the part's box lies on the board. */
    function partOn(f: BoardView): Flat[] {
        const b = bench.part?.figures;
        if (!b) return [];
        return [0, 1, 2, 3, 4, 5, 6, 7].map((n) =>
            dropped(
                f,
                b.least.map((x, i) => x + ((n >> i) & 1) * b.size[i]!),
            ),
        );
    }
    let squared = 0;
    watch(
        [() => board.squares, () => profiles.squares, () => board.view, () => profiles.view, view],
        ([a, b]) => {
            if (a + b === squared || !frame() || !view.value) return;
            squared = a + b;
            square();
        },
    );
    watch(
        () => board.on || profiles.picking,
        (on) => {
            view.value?.eye.setTurning(!on);
            if (!on) view.value?.endSquare();
        },
    );

    /** Where a place of the window is on the board. */
    function flatAt(x: number, y: number): Flat | null {
        const box = view.value?.host.getBoundingClientRect();
        return box ? flat(x - box.left, y - box.top) : null;
    }

    return { press, move, release, partOn, flatAt };
}
