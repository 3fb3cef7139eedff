// Keys that work everywhere except while typing.
import { onMounted, onUnmounted } from 'vue';
import { useBench } from './stores/bench';
import { useBoard } from './stores/board';
import { useForecast } from './stores/forecast';
import { useJob } from './stores/job';
import { usePicks } from './tools/picking/picks';
import { useParts } from './stores/parts';
import { useSections } from './stores/sections';
import { stations } from './text';

/** The viewport hears about turns and zooms through this event, with `detail` the key. */
export const VIEW_KEY = 'nimbet-view-key';
/** Picking hears through this one: 1 and -1 walk what can be picked, 0 takes it. */
export const WALK_KEY = 'nimbet-walk-key';

const FIELD = 'input, textarea, select, [contenteditable]';
/** What lies open over the bench: lists, menus, dialogs. */
const OPEN_OVER = '.v-overlay--active:not(.v-tooltip, .v-snackbar)';

export function useKeys() {
    const bench = useBench();
    const board = useBoard();
    const jobs = useJob();
    const forecast = useForecast();
    const sections = useSections();
    const picks = usePicks();
    const parts = useParts();

    const withControl: Record<string, () => void> = {
        k: () => (bench.dialog = 'search'),
        z: () => void jobs.undo(),
        Z: () => void jobs.redo(),
        y: () => void jobs.redo(),
    };
    const plain: Record<string, () => void> = {
        n: () => bench.stepFinding(1),
        N: () => bench.stepFinding(-1),
        z: () => bench.flights++,
        h: () => (bench.hidden = true),
        H: () => bench.showAll(),
        o: () => bench.only(),
        p: () => (parts.listed = jobs.job !== null),
        f: () => walk(1),
        F: () => walk(-1),
        x: () => (bench.lens = bench.lens === 'xray' ? 'plain' : 'xray'),
        c: () => sections.toggle(),
        ',': () => moveSection(-0.01),
        '.': () => moveSection(0.01),
        b: () => (bench.before = forecast.ready !== null),
        '?': () => (bench.dialog = 'keys'),
        Escape: () => picks.stopAsking() || (forecast.draft ? forecast.cancel() : bench.selectFinding(null)),
    };
    for (const station of stations) plain[String(station.number)] = () => bench.openStation(station.key);
    for (const key of ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', '+', '-'])
        plain[key] = () => window.dispatchEvent(new CustomEvent(VIEW_KEY, { detail: key }));

    const walk = (by: number) => window.dispatchEvent(new CustomEvent(WALK_KEY, { detail: by }));
    const moveSection = (share: number) =>
        sections.move(share * Math.hypot(...(bench.part?.figures.size ?? [50])));

    /** Whether the focus went where it is by keyboard. */
    let cameByKey = false;
    let lastWasKey = false;
    const pointed = () => (lastWasKey = false);
    const focused = () => (cameByKey = lastWasKey);

    /** Enter applies the open tool wherever the focus is, but in what Enter has a meaning of its own for. */
    function applies(target: HTMLElement): boolean {
        // What is written row by row takes Enter for the row.
        if (!forecast.inSight || target.matches('textarea') || target.closest('[data-enter="own"]'))
            return false;
        // Fields beside the tool have their own.
        if (target.matches(FIELD)) return target.closest('[data-testid="forecast"]') !== null;
        // A control the keyboard has gone to is pressed by Enter; one that was clicked only kept the focus.
        return !cameByKey;
    }

    function heard(event: KeyboardEvent) {
        const target = event.target as HTMLElement;
        if (event.key === 'Tab' || event.key.startsWith('Arrow')) lastWasKey = true;
        // Lists and dialogs that are open hear first.
        if (bench.dialog || document.querySelector(OPEN_OVER)) return;
        const typing = target.matches(FIELD);
        // The board hears before the bench; in fields only the fields hear.
        if (!typing && board.heard?.(event)) {
            event.preventDefault();
            event.stopPropagation();
            return;
        }
        if (event.key === 'Enter' && !event.ctrlKey && applies(target)) {
            event.preventDefault();
            event.stopPropagation();
            void forecast.apply();
            return;
        }
        if (event.ctrlKey || event.metaKey) {
            const act = withControl[event.key];
            if (!act || (typing && event.key !== 'k')) return;
            event.preventDefault();
            act();
            return;
        }
        if (event.altKey || (typing && event.key !== 'Escape')) return;
        // Arrows in lists belong to the control.
        const control = target.closest(
            'button, a, li.step, [role="option"], [role="tab"], [role="slider"], .v-select, .v-autocomplete',
        );
        if (control && event.key.startsWith('Arrow')) return;
        // Space presses the control it is on; elsewhere it takes what was walked to.
        const act = event.key === ' ' && !control ? () => walk(0) : plain[event.key];
        if (!act) return;
        event.preventDefault();
        act();
    }

    /** The part as it is, for as long as the key is held. */
    function held(event: KeyboardEvent) {
        if (event.key === 'b') bench.before = false;
    }
    const leave = () => (bench.before = false);

    onMounted(() => window.addEventListener('pointerdown', pointed, true));
    onMounted(() => window.addEventListener('focusin', focused));
    onUnmounted(() => window.removeEventListener('pointerdown', pointed, true));
    onUnmounted(() => window.removeEventListener('focusin', focused));
    // Before anybody else hears them: controls keep Enter for themselves otherwise.
    onMounted(() => window.addEventListener('keydown', heard, true));
    onMounted(() => window.addEventListener('keyup', held));
    onMounted(() => window.addEventListener('blur', leave));
    onUnmounted(() => window.removeEventListener('keydown', heard, true));
    onUnmounted(() => window.removeEventListener('keyup', held));
    onUnmounted(() => window.removeEventListener('blur', leave));
}
