// Turning and zooming the view by keyboard.
import { onMounted, onUnmounted, type ShallowRef } from 'vue';
import { VIEW_KEY } from '../keys';
import type { Bench } from '../viewport/bench';

/** By how much a key turns the view, to the right and up, radians. */
const TURNS: Record<string, [number, number]> = {
    ArrowLeft: [-0.15, 0],
    ArrowRight: [0.15, 0],
    ArrowUp: [0, 0.15],
    ArrowDown: [0, -0.15],
};

export function useViewKeys(view: ShallowRef<Bench | null>) {
    function heard(event: Event) {
        const key = (event as CustomEvent<string>).detail;
        if (TURNS[key]) view.value?.eye.turn(...TURNS[key]);
        else view.value?.eye.zoom(key === '+' ? 0.85 : 1.18);
    }
    onMounted(() => window.addEventListener(VIEW_KEY, heard));
    onUnmounted(() => window.removeEventListener(VIEW_KEY, heard));
}
