// The board: the drawing of the profile that is open, changes to it, and the strokes that can be taken back.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { answer, api, ProblemError, unreachable, type Problem, type Schemas } from '../api/client';
import type { BoardView } from '../board/plane';
import { usePicks } from '../tools/picking/picks';
import { useBench } from './bench';
import { useForecast } from './forecast';

export type Change = Schemas['Change'];
/** A drawing: its lines, the figures and rules that are held, what is carried down from parts. */
export type Drawing = Pick<Schemas['BoardView'], 'lines' | 'holds'> & { carried: Schemas['Carried'][] };
/** A change that is not made because what is held quarrels with it. */
interface Quarrel {
    change: Change;
    contenders: Schemas['BoardView']['quarrel'];
    letGo: readonly string[];
}
interface More {
    change?: Change;
    hand?: Schemas['Hand'];
    chosen?: string[];
    let_go?: string[];
}

/** The forecast of the step follows so long after the last stroke, ms. */
const PAUSE = 400;

export const useBoard = defineStore('board', () => {
    const forecast = useForecast();
    const bench = useBench();
    const picks = usePicks();
    const draft = computed(() => (forecast.draft?.kind === 'shape.profile' ? forecast.draft : null));
    const on = computed(() => draft.value !== null && forecast.inSight);
    const view = shallowRef<BoardView | null>(null);
    /** The drawing while a handle of it is held. */
    const held = shallowRef<BoardView | null>(null);
    const shown = computed(() => held.value ?? view.value);
    const lines = computed(() => draft.value?.lines ?? []);
    const drawing = computed<Drawing>(() => ({
        lines: lines.value,
        holds: draft.value?.holds ?? [],
        carried: draft.value?.carried ?? [],
    }));
    const quarrel = shallowRef<Quarrel | null>(null);
    /** Whether rules are written on the drawing, and what is loose. */
    const rulesShown = ref(false);
    const looseShown = ref(false);
    const chosen = ref<readonly string[]>([]);
    /** Why the last change was not made, or what it did. */
    const trouble = ref('');
    const done = ref('');
    const past = shallowRef<readonly Drawing[]>([]);
    const future = shallowRef<readonly Drawing[]>([]);
    /** Goes up when the view should turn square to the board. */
    const squares = ref(0);
    /** What hears keys first while the board is open; says whether it had a use for one. */
    const heard = shallowRef<((event: KeyboardEvent) => boolean) | null>(null);

    /** What is to be seen of a drawing, of the one that stands unless another is given. */
    async function ask(
        more: More = {},
        of: Pick<Drawing, 'lines' | 'holds'> = drawing.value,
    ): Promise<BoardView> {
        const { plane, right } = draft.value!;
        const mesh = plane.face ? bench.part?.mesh : undefined;
        const board = {
            plane,
            right: right ?? null,
            lines: [...of.lines],
            holds: [...of.holds],
            change: null,
            hand: null,
            chosen: [],
            let_go: [],
            ...more,
        };
        const got = await answer(
            api.POST('/api/v1/boards', { params: { query: { mesh } }, body: { board } }),
        );
        return got.board;
    }

    /** Shows the drawing as it stands. */
    let looks = 0;
    async function look() {
        const mine = ++looks;
        try {
            const got = await ask();
            if (mine === looks && draft.value) view.value = got;
        } catch (error) {
            if (mine === looks) tell(error);
        }
    }
    function tell(error: unknown) {
        if (!(error instanceof ProblemError)) throw error;
        trouble.value = error.problem.detail;
    }

    const later = Symbol('board');
    let timer = 0;
    function stopTimer() {
        window.clearTimeout(timer);
        forecast.typed.delete(later);
    }
    function forecastNow() {
        stopTimer();
        if (draft.value) picks.change(draft.value);
    }
    /** Puts a drawing in the place of the one that is there; a stroke that can be taken back unless it takes one back. */
    function put(now: Drawing, stroke = true) {
        if (!draft.value) return;
        if (stroke) {
            past.value = [...past.value, drawing.value];
            future.value = [];
        }
        const named = [...now.lines, ...now.holds].map(({ name }) => name);
        chosen.value = chosen.value.filter((name) => named.includes(name));
        picks.alter({
            ...draft.value,
            lines: [...now.lines],
            holds: [...now.holds],
            carried: [...now.carried],
        });
        window.clearTimeout(timer);
        forecast.typed.set(later, forecastNow);
        timer = window.setTimeout(forecastNow, PAUSE);
    }
    /** Puts a drawing that was just worked out in the place of the one that is there. */
    function take(now: BoardView) {
        looks++;
        view.value = now;
        put({ ...now, carried: drawing.value.carried });
    }
    /** Puts another drawing in the place of the one that is there, settled. */
    async function replace(now: Drawing) {
        const got = await ask({}, now);
        if (!draft.value) return;
        looks++;
        view.value = got;
        put({ lines: got.lines, holds: now.holds, carried: now.carried });
    }

    /** Makes a change once those before are made; says whether it could be. What quarrels with it is shown, and nothing is changed. */
    let last: Promise<unknown> = Promise.resolve();
    function change(what: Change, letGo: readonly string[] = []): Promise<boolean> {
        const mine = last.then(() => make(what, letGo));
        last = mine.catch(() => {});
        return mine;
    }
    async function make(what: Change, letGo: readonly string[]): Promise<boolean> {
        trouble.value = done.value = '';
        quarrel.value = null;
        const before = lines.value;
        try {
            const got = await ask({ change: what, let_go: [...letGo] });
            if (before !== lines.value) return false;
            if (got.quarrel.length) {
                quarrel.value = { change: what, contenders: got.quarrel, letGo };
                return false;
            }
            done.value = got.done ?? '';
            take(got);
            return true;
        } catch (error) {
            tell(error);
            return false;
        }
    }
    /** Makes the change that quarrels, without one it quarrels with. */
    async function letGo(name: string) {
        const now = quarrel.value;
        if (now) await change(now.change, [...now.letGo, name]);
    }

    /** Takes what is chosen away: lines, or figures and rules. */
    function removeChosen() {
        const isHold = (name: string) => drawing.value.holds.some((h) => h.name === name);
        const [holds, gone] = [chosen.value.filter(isHold), chosen.value.filter((n) => !isHold(n))];
        return gone.length ? change({ remove: { lines: gone } }) : change({ let_go: { holds } });
    }

    /** Reads a drawing from a file; its lines come beside those that are there. */
    async function read(file: File) {
        trouble.value = done.value = '';
        try {
            const body = await file.arrayBuffer();
            const headers = { 'content-type': 'application/octet-stream' };
            const sent = fetch('/api/v1/boards/outlines', { method: 'POST', headers, body });
            const got = await sent.then(async (r) => ({ ok: r.ok, held: (await r.json()) as unknown }));
            if (!got.ok) throw new ProblemError(got.held as Problem);
            const { shapes, unit, left_out } = got.held as Schemas['OutlinesView'];
            if (!(await change({ draw: { draw: shapes } }))) return;
            const left = Object.entries(left_out).map(([what, n]) => `${n} ${what}`);
            done.value =
                `${shapes.length === 1 ? '1 line' : `${shapes.length} lines`} read (${unit})` +
                (left.length ? `; left out: ${left.join(', ')}` : '');
            squares.value++;
        } catch (error) {
            tell(error instanceof ProblemError ? error : new ProblemError(unreachable));
        }
    }

    function undo() {
        const last = past.value.at(-1);
        if (!last) return;
        past.value = past.value.slice(0, -1);
        future.value = [...future.value, drawing.value];
        put(last, false);
        void look();
    }
    function redo() {
        const next = future.value.at(-1);
        if (!next) return;
        future.value = future.value.slice(0, -1);
        past.value = [...past.value, drawing.value];
        put(next, false);
        void look();
    }

    function choose(name: string | null, more = false) {
        const has = name !== null && chosen.value.includes(name);
        if (name === null) chosen.value = more ? chosen.value : [];
        else if (more) chosen.value = has ? chosen.value.filter((n) => n !== name) : [...chosen.value, name];
        else chosen.value = [name];
    }

    watch(on, (now) => now && squares.value++);
    watch(
        [on, () => draft.value?.plane, () => draft.value?.right, () => bench.part?.mesh] as const,
        ([now, plane], before) => {
            if (!now) return;
            void look();
            if (plane !== before[1] && before[0]) squares.value++;
        },
    );
    watch(
        () => draft.value === null,
        (gone) => {
            if (!gone) return;
            view.value = held.value = null;
            past.value = future.value = [];
            chosen.value = [];
            trouble.value = done.value = '';
            quarrel.value = null;
            rulesShown.value = looseShown.value = false;
            stopTimer();
        },
    );

    return {
        on,
        draft,
        view,
        held,
        shown,
        lines,
        drawing,
        chosen,
        quarrel,
        rulesShown,
        looseShown,
        trouble,
        done,
        past,
        future,
        squares,
        heard,
        ask,
        tell,
        look,
        take,
        replace,
        change,
        letGo,
        removeChosen,
        read,
        undo,
        redo,
        choose,
    };
});
