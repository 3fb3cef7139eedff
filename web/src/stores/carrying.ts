// Lines carried down from parts onto the board: taken, taken anew from the parts as they are, set free, taken away.
import { defineStore } from 'pinia';
import { ref, watch } from 'vue';
import { answer, api, ProblemError, type Schemas } from '../api/client';
import { isOf } from '../board/carried';
import { useBench } from './bench';
import { useBoard, type Drawing } from './board';
import { useJob } from './job';

type Carried = Schemas['Carried'];
type Line = Schemas['Line'];

/** What is carried down is called ka1, ka2 …, then kb1 … */
const NAMES = Array.from({ length: 26 }, (_, n) => `k${String.fromCharCode(97 + n)}`);

export const useCarrying = defineStore('carrying', () => {
    const board = useBoard();
    const bench = useBench();
    const jobs = useJob();
    const busy = ref(false);

    async function linesOf(carried: Carried): Promise<Line[]> {
        const { origin, right, up } = board.view!;
        const part = jobs.parts.find((p) => p.id === (carried.part ?? bench.part?.id));
        if (!part) return [];
        const body = { origin, right, up, carried };
        const path = { mesh: part.mesh };
        return (await answer(api.POST('/api/v1/meshes/{mesh}/carried', { params: { path }, body }))).lines;
    }
    /** Carried lines come first, so that copies of them can be drawn. */
    async function put(of: (now: Drawing) => Promise<Drawing>) {
        if (busy.value || !board.view) return;
        busy.value = true;
        board.trouble = board.done = '';
        try {
            await board.replace(await of(board.drawing));
        } catch (error) {
            board.tell(error);
        } finally {
            busy.value = false;
        }
    }
    const add = (what: Carried['what'], part: number | null) =>
        put(async (now) => {
            const taken = [...now.lines, ...now.holds, ...now.carried].map((n) => n.name);
            const name = NAMES.find((n) => !taken.some((t) => t.startsWith(n))) ?? 'carried';
            const carried: Carried = { name, what, ...(part != null && { part }) };
            const lines = await linesOf(carried);
            const still = now.lines.filter((l) => l.still);
            const own = now.lines.filter((l) => !l.still);
            return { ...now, lines: [...still, ...lines, ...own], carried: [...now.carried, carried] };
        });
    /** As the parts are now; a part that has nothing of the kind any more leaves its lines as they were. */
    const again = () =>
        put(async (now) => {
            const anew = await Promise.all(
                now.carried.map((c) =>
                    linesOf(c).catch((error: unknown) => {
                        if (!(error instanceof ProblemError)) throw error;
                        return now.lines.filter((l) => isOf(l, c.name));
                    }),
                ),
            );
            return { ...now, lines: [...anew.flat(), ...now.lines.filter((l) => !l.still)] };
        });
    const without = (now: Drawing, name: string) => now.carried.filter((c) => c.name !== name);
    const away = (name: string) =>
        put((now) => {
            const lines = now.lines.filter((l) => !isOf(l, name));
            return Promise.resolve({ ...now, lines, carried: without(now, name) });
        });
    const free = (name: string) =>
        put((now) => {
            const lines = now.lines.map((l) => (isOf(l, name) ? { ...l, still: false } : l));
            return Promise.resolve({ ...now, lines, carried: without(now, name) });
        });

    // A drawing that is opened shows the parts as they are.
    watch(
        () => board.view !== null,
        (open) => open && board.drawing.carried.length && void again(),
    );
    return { busy, add, again, away, free };
});
