// What is pointed at to be held: lines and places in words, and what can be held of them.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { ProblemError, type Schemas } from '../api/client';
import { withFigure } from '../board/draughts';
import { useBoard } from './board';
import { usePen } from './pen';

type Offer = Schemas['Offer'];
/** No rule speaks of more. */
const MOST = 3;
/** Words for a place, not for a line. */
const PLACE = /^(zero|(beginning|end|middle|centre|point \d+) of )/;

export const useHolding = defineStore('holding', () => {
    const board = useBoard();
    const pen = usePen();
    const on = computed(() => pen.aim === 'hold');
    const things = ref<readonly string[]>([]);
    const offers = shallowRef<readonly Offer[]>([]);
    const isPlace = (thing: string) => PLACE.test(thing);

    /** Takes what the hand is over, or lets it go again. */
    function takeUnder() {
        const { hand } = pen;
        const thing = hand && isPlace(hand.caught) ? hand.caught : hand?.over_curve;
        if (thing) toggle(thing);
    }
    function toggle(thing: string) {
        things.value = things.value.includes(thing)
            ? things.value.filter((t) => t !== thing)
            : [...things.value, thing].slice(-MOST);
    }
    async function look() {
        const asked = things.value;
        if (!board.draft || !asked.length) return void (offers.value = []);
        try {
            const got = await board.ask({ chosen: [...asked] });
            if (asked === things.value) offers.value = got.offers;
        } catch (error) {
            if (!(error instanceof ProblemError)) throw error;
            if (asked !== things.value) return;
            // What was chosen in the list may be more than one curve.
            things.value = asked.slice(0, -1);
            board.trouble = error.problem.detail;
        }
    }
    /** Holds an offer, with another figure if one is given. */
    async function hold(offer: Offer, figure?: number) {
        const text = figure === undefined ? offer.text : withFigure(offer.text, figure);
        if (await board.change({ hold: { text } })) things.value = [];
    }

    watch(on, (now) => (things.value = now ? board.chosen.slice(0, MOST) : []));
    watch([things, () => board.view], look);

    return { on, things, offers, isPlace, takeUnder, toggle, hold };
});
