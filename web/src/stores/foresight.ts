// What a change would make of the drawing, shown before it is made: what comes, what goes, and what would be told of it.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { ProblemError } from '../api/client';
import { without } from '../board/compare';
import type { BoardView } from '../board/plane';
import { useBoard, type Change } from './board';

export const useForesight = defineStore('foresight', () => {
    const board = useBoard();
    const seen = shallowRef<BoardView | null>(null);
    /** Why it could not be made. */
    const refusal = ref('');

    /** Only the newest is asked for. */
    let wanted: Change | null = null;
    let asking = false;
    async function foresee(change: Change | null) {
        wanted = change;
        if (!change) return void clear();
        if (asking) return;
        asking = true;
        while (wanted && board.draft) {
            const now: Change = wanted;
            try {
                const got = await board.ask({ change: now });
                if (now === wanted) {
                    seen.value = got.quarrel.length ? null : got;
                    refusal.value = got.quarrel.length
                        ? `${got.quarrel.map((c) => c.name ?? c.text).join(', ')} quarrel with it`
                        : '';
                }
            } catch (error) {
                if (!(error instanceof ProblemError)) throw error;
                if (now === wanted) [seen.value, refusal.value] = [null, error.problem.detail];
            }
            if (now === wanted) break;
        }
        asking = false;
        if (!wanted) clear();
    }
    function clear() {
        seen.value = null;
        refusal.value = '';
    }

    const coming = computed(() => without(seen.value?.curves ?? [], board.view?.curves ?? []));
    const going = computed(() => (seen.value ? without(board.view?.curves ?? [], seen.value.curves) : []));
    /** What would be told of it, in a line. */
    const told = computed(() =>
        seen.value ? `${seen.value.done ?? 'would be'}: ${seen.value.told ?? ''}` : refusal.value,
    );
    watch([() => board.view, () => board.draft === null], () => void foresee(null));

    return { seen, refusal, coming, going, told, foresee };
});
