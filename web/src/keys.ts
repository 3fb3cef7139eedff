// Keys that work everywhere except while typing.
import { onMounted, onUnmounted } from 'vue';
import { useBench } from './stores/bench';
import { useForecast } from './stores/forecast';
import { useJob } from './stores/job';
import { usePicks } from './tools/picking/picks';
import { useSections } from './stores/sections';
import { stations } from './text';

/** The viewport hears about turns and zooms through this event, with `detail` the key. */
export const VIEW_KEY = 'nimbet-view-key';

export function useKeys() {
    const bench = useBench();
    const jobs = useJob();
    const forecast = useForecast();
    const sections = useSections();
    const picks = usePicks();

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
        x: () => (bench.lens = bench.lens === 'xray' ? 'plain' : 'xray'),
        c: () => sections.toggle(),
        ',': () => moveSection(-0.01),
        '.': () => moveSection(0.01),
        '?': () => (bench.dialog = 'keys'),
        Enter: () => void forecast.apply(),
        Escape: () => picks.stopAsking() || (forecast.draft ? forecast.cancel() : bench.selectFinding(null)),
    };
    for (const station of stations) plain[String(station.number)] = () => bench.openStation(station.key);
    for (const key of ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', '+', '-'])
        plain[key] = () => window.dispatchEvent(new CustomEvent(VIEW_KEY, { detail: key }));

    const moveSection = (share: number) =>
        sections.move(share * Math.hypot(...(bench.part?.figures.size ?? [50])));

    function heard(event: KeyboardEvent) {
        const target = event.target as HTMLElement;
        const typing = target.matches('input, textarea, select, [contenteditable]');
        if (event.ctrlKey || event.metaKey) {
            const act = withControl[event.key];
            if (!act || (typing && event.key !== 'k')) return;
            event.preventDefault();
            act();
            return;
        }
        if (event.altKey || bench.dialog) return;
        if (typing && event.key !== 'Escape' && event.key !== 'Enter') return;
        // In a field of many lines Enter begins the next.
        if (target.matches('textarea') && event.key === 'Enter') return;
        // Enter on a control, and arrows in lists, belong to the control.
        const control = target.closest(
            'button, a, [role="option"], [role="tab"], [role="slider"], .v-select, .v-autocomplete',
        );
        if (control && (event.key === 'Enter' || event.key.startsWith('Arrow'))) return;
        const act = plain[event.key];
        if (!act) return;
        event.preventDefault();
        act();
    }

    onMounted(() => window.addEventListener('keydown', heard));
    onUnmounted(() => window.removeEventListener('keydown', heard));
}
