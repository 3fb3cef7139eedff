// The hand over the board: the pen that is taken up, what has been clicked and typed, what the pointer catches, a handle that is held.
import { defineStore } from 'pinia';
import { ref, shallowRef, watch } from 'vue';
import type { Schemas } from '../api/client';
import type { Flat } from '../board/plane';
import { useBoard, type Change } from './board';

export type Pen = Schemas['Pen'];
type Hand = Schemas['Hand'];
/** What a click changes at its place. */
export type Aim = 'cut_back' | 'keep_region' | 'split' | 'carry_on' | 'flow' | 'corner' | 'hold' | 'letters';

/** Figures that stay typed from line to line. */
const STAYS = ['width', 'sides', 'pitch', 'turns', 'radius'];

export const usePen = defineStore('pen', () => {
    const board = useBoard();
    const pen = ref<Pen | null>(null);
    const aim = ref<Aim | null>(null);
    /** What the hand does, as it was worked out last. */
    const hand = shallowRef<Schemas['HandView'] | null>(null);
    const clicks = shallowRef<readonly Schemas['Click'][]>([]);
    /** Whether the next leg of a chain is an arc, and whether further ones are. */
    const round = ref(false);
    const bends = ref(false);
    const typed = ref<Record<string, number>>({});
    /** Which figure of the slip is being typed, and what stands there. */
    const figure = ref(0);
    const writing = ref('');
    /** The end a flow begins at. */
    const first = ref<[number, number] | null>(null);
    /** How corners are softened one by one, how a piece flows, what letters say. */
    const corner = ref({ radius: 1, flat: false });
    const flow = ref({ pull: [1, 1] as [number, number], even: true });
    const letters = ref({ text: 'No 7', height: 10, turned: 0, middle: true });

    /** What the hand is asked about next; only the newest place counts. */
    let next: Hand | null = null;
    let last: Hand | null = null;
    let asking: Promise<void> | null = null;
    function point(where: Hand): Promise<void> {
        next = last = where;
        asking ??= (async () => {
            while (next && board.draft) {
                const now = next;
                next = null;
                try {
                    const drags = !!now.does && 'drag' in now.does;
                    // With rules it goes on from where it was led last, so that nothing jumps.
                    const led = drags && board.held && board.drawing.holds.length ? board.held : undefined;
                    const got = await board.ask({ hand: now }, led);
                    hand.value = got.hand ?? null;
                    if (drags) board.held = got;
                } catch (error) {
                    board.tell(error);
                }
            }
            asking = null;
        })();
        return asking;
    }
    const doing = (): Hand['does'] => {
        if (!pen.value) return null;
        const made = {
            pen: pen.value,
            clicks: [...clicks.value],
            round: round.value,
            typed: { ...typed.value },
        };
        return { draw: made };
    };
    /** The same again with what was typed or chosen since. */
    const again = () => last && point({ ...last, does: doing() });

    /** Clicks and keys are done one after the other, each once it is known what the one before made, however fast they come. */
    let queue: Promise<unknown> = Promise.resolve();
    let queued = 0;
    function inOrder(work: () => unknown): Promise<void> {
        queued++;
        const done = async () => {
            try {
                await asking;
                await work();
            } finally {
                queued--;
            }
        };
        const mine = queue.then(done, done);
        queue = mine;
        return mine;
    }
    /** Whether something is being drawn, or is about to be. */
    const drawing = () => pen.value !== null && (queued > 0 || clicks.value.length > 0);

    /** Clicks where the hand is. */
    const click = (where: Hand) =>
        inOrder(async () => {
            await point({ ...where, does: doing() });
            await set();
        });
    /** Takes what was typed, or ends what is being drawn. */
    const enter = () =>
        inOrder(() => (Object.keys(typed.value).length && clicks.value.length ? set() : finish()));

    /** Sets a click where the hand is. */
    async function set() {
        board.trouble = '';
        const now = hand.value;
        if (!now || !pen.value) return;
        const here = { at: [...now.at], round: round.value, caught: now.caught, typed: { ...typed.value } };
        if (now.last && now.shape) return draw(now.shape, [...clicks.value, here]);
        // Twice at one place ends a chain.
        const at = clicks.value.at(-1)?.at;
        if (at && Math.hypot(now.at[0]! - at[0]!, now.at[1]! - at[1]!) < 1e-6) return finish();
        clicks.value = [...clicks.value, here];
        round.value = bends.value;
        freshFigures();
        await again();
    }
    /** Ends what is being drawn with the last click. */
    async function finish() {
        const open = pen.value === 'chain' || pen.value === 'curve';
        const end = clicks.value.at(-1);
        if (!open || !end || clicks.value.length < 2) return void drop();
        const made = { pen: pen.value!, clicks: clicks.value.slice(0, -1), round: end.round, typed: {} };
        try {
            // As if the pointer were where the last click was.
            const got = await board.ask({ hand: { at: end.at, reach: 0, grid: 0, does: { draw: made } } });
            if (got.hand?.shape) await draw(got.hand.shape, [...clicks.value]);
        } catch (error) {
            board.tell(error);
        }
    }
    /** What was caught and typed at the clicks is held. */
    async function draw(shape: Schemas['Shape'], by: Schemas['Click'][]) {
        if (!(await board.change({ draw: { draw: [shape], by } }))) return;
        if (board.done === 'drawn') board.done = '';
        drop();
    }
    function freshFigures() {
        const stay = ([name]: [string, number]) => STAYS.includes(name) && pen.value !== 'chain';
        typed.value = Object.fromEntries(Object.entries(typed.value).filter(stay));
        figure.value = 0;
        writing.value = '';
    }
    /** Lets go of what is being drawn; says whether there was something. */
    function drop(): boolean {
        const had = clicks.value.length > 0;
        clicks.value = [];
        round.value = false;
        freshFigures();
        board.held = null;
        void again();
        return had;
    }
    function take(what: Pen | null) {
        drop();
        typed.value = {};
        bends.value = false;
        aim.value = null;
        pen.value = what;
        hand.value = null;
        board.choose(null);
        board.trouble = board.done = '';
        void again();
    }
    function takeAim(what: Aim | null) {
        const { chosen } = board;
        take(null);
        first.value = null;
        aim.value = what;
        // What is chosen is what is to be held.
        if (what === 'hold') board.chosen = chosen;
    }

    /** Types into the figure of the slip. */
    const type = (key: string) => inOrder(() => write(key));
    function write(key: string) {
        const name = hand.value?.figures[figure.value]?.name;
        if (!name) return;
        writing.value = key === 'Backspace' ? writing.value.slice(0, -1) : writing.value + key;
        const value = Number(writing.value.replace(',', '.'));
        const rest = Object.fromEntries(Object.entries(typed.value).filter(([n]) => n !== name));
        typed.value = writing.value && Number.isFinite(value) ? { ...rest, [name]: value } : rest;
        void again();
    }
    const tab = (by: number) =>
        inOrder(() => {
            const n = hand.value?.figures.length ?? 0;
            if (n) figure.value = (figure.value + by + n) % n;
            writing.value = '';
        });

    /** A handle that was held is let go: a stroke. */
    async function letGo() {
        await asking;
        const now = board.held;
        board.held = null;
        if (!now) return;
        board.take(now);
        await board.look();
    }
    /** What a click, or a stroke to another place, changes. */
    function aimed(at: Flat, to?: Flat): Change | null {
        const place: [number, number] = [...at];
        switch (aim.value) {
            case 'flow':
                return first.value && { flow: { between: [first.value, place], ...flow.value } };
            case 'corner':
                return { soften: { ...corner.value, at: [place], sharper: 0.1 } };
            case 'letters':
                return { draw: { draw: [{ letters: { ...letters.value, at: place } }] } };
            case 'cut_back':
                return { cut_back: { at: place, ...(to && { to: [...to] as [number, number] }) } };
            case null:
            case 'hold':
                return null;
            default:
                return { [aim.value]: { at: place } } as unknown as Change;
        }
    }
    function clickAt(at: Flat, to?: Flat): Promise<boolean> {
        if (aim.value === 'flow' && !first.value) {
            first.value = [...at];
            return Promise.resolve(true);
        }
        const change = aimed(at, to);
        first.value = null;
        return change ? board.change(change) : Promise.resolve(false);
    }
    /** Escape: first what is being drawn, then the pen, then what is chosen. It never puts a drawing away; says whether it did anything else. */
    function escape(): boolean {
        if (drop()) return true;
        const had = pen.value !== null || aim.value !== null || board.chosen.length > 0;
        take(null);
        return had || board.lines.length > 0;
    }
    watch(
        () => board.draft === null,
        (gone) => {
            if (!gone) return;
            pen.value = aim.value = hand.value = last = null;
            clicks.value = [];
            freshFigures();
        },
    );

    return {
        pen,
        aim,
        hand,
        clicks,
        round,
        bends,
        typed,
        figure,
        writing,
        corner,
        flow,
        letters,
        aimed,
        point,
        doing,
        again,
        click,
        enter,
        drawing,
        finish,
        drop,
        take,
        takeAim,
        type,
        tab,
        letGo,
        clickAt,
        escape,
    };
});
