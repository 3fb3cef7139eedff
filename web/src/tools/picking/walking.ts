// Picking by keyboard: what can be picked is walked through, turned into sight, and taken where it lies.
import * as THREE from 'three';
import { onMounted, onUnmounted, ref, watch, type Ref, type ShallowRef } from 'vue';
import { WALK_KEY } from '../../keys';
import { snapsOf, type Xyz } from '../../rimRuns';
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import { useMeshes } from '../../stores/meshes';
import type { Bench } from '../../viewport/bench';
import { usePicks } from './picks';

interface Place {
    at: Xyz;
    text: string;
}

/** What walking needs of picking by pointer. */
interface Pointer {
    aim: Ref<Place | null>;
    click: (x: number, y: number) => unknown;
    place: () => void;
}

/** Nobody walks farther. */
const MOST = 500;

export function useWalking(view: ShallowRef<Bench | null>, pointer: Pointer) {
    const bench = useBench();
    const forecast = useForecast();
    const meshes = useMeshes();
    const picks = usePicks();
    const at = ref(-1);
    let now: Place | null = null;
    let done: Promise<unknown> = Promise.resolve();
    watch([() => picks.picking?.kind, () => bench.part?.mesh], () => ([at.value, now] = [-1, null]));

    /** The places that can be picked, the likeliest first. */
    async function places(): Promise<Place[]> {
        const [target, part, kind] = [view.value, bench.part, picks.picking?.kind];
        if (!target || !part || !kind) return [];
        if (kind === 'rim point')
            return picks.rimLines.flatMap((line) =>
                snapsOf(line, [])
                    .filter((s) => s.snap === 'corner')
                    .map((s) => ({ at: s.at, text: `${s.snap} of ${line.name}` })),
            );
        if (kind === 'chamber')
            return (forecast.ready?.report.made ?? []).flatMap((m) =>
                m.inside ? [{ at: m.inside as Xyz, text: '' }] : [],
            );
        if (!['face', 'shell', 'point', 'spot'].includes(kind)) return [];
        const faces = [...(await meshes.facesOf(part.mesh))].sort((a, b) => b.area - a.area);
        const points = target.facePoints(part.id);
        return faces.slice(0, MOST).flatMap((f) => {
            const on = points.get(f.id);
            return on ? [{ at: on, text: f.text }] : [];
        });
    }

    async function walk(by: number) {
        const all = await places();
        if (!all.length) return;
        at.value = at.value < 0 ? (by > 0 ? 0 : all.length - 1) : (at.value + by + all.length) % all.length;
        now = all[at.value]!;
        view.value?.bringIntoSight(new THREE.Vector3(...now.at));
        pointer.aim.value = now;
        pointer.place();
    }

    function take() {
        const on = now ? view.value?.onScreen(now.at) : null;
        if (on) return pointer.click(on.x, on.y);
    }

    function heard(event: Event) {
        const by = (event as CustomEvent<number>).detail;
        // One after the other, however fast the keys come.
        done = done.then(() => (by === 0 ? take() : walk(by)));
    }
    onMounted(() => window.addEventListener(WALK_KEY, heard));
    onUnmounted(() => window.removeEventListener(WALK_KEY, heard));
}
