// Keeps the drawings on the bench in step with parts, forecast, lens and selection.
import * as THREE from 'three';
import { computed, ref, watch, type ShallowRef } from 'vue';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import type { Bench } from './bench';
import { Model } from './model';

/** Drawings kept for going back and forth (undo, forecasts). */
const KEPT = 12;

export function useModels(view: ShallowRef<Bench | null>) {
    const bench = useBench();
    const forecast = useForecast();
    const loading = ref(false);
    const failure = ref<string | null>(null);
    const cache = new Map<string, Model>();
    let turn = 0;

    async function model(mesh: string, triangles: number): Promise<Model> {
        const known = cache.get(mesh);
        if (known) return known;
        const made = await Model.load(mesh, triangles, new AbortController().signal);
        cache.set(mesh, made);
        return made;
    }

    function trim(used: Set<string>) {
        for (const [mesh, held] of cache) {
            if (cache.size <= KEPT) break;
            if (used.has(mesh)) continue;
            held.dispose();
            cache.delete(mesh);
        }
    }

    async function refresh() {
        const target = view.value;
        if (!target) return;
        const mine = ++turn;
        loading.value = true;
        try {
            const wanted = bench.shownParts;
            const models = new Map<number, Model>();
            for (const part of wanted) models.set(part.id, await model(part.mesh, part.figures.triangles));
            const { ready } = forecast;
            const instead = bench.part?.id;
            const preview = ready ? await model(ready.mesh, ready.report.after.triangles) : null;
            if (mine !== turn) return;
            target.show(models, preview && instead !== undefined ? { model: preview, instead } : null);
            trim(new Set([...wanted.map((p) => p.mesh), ...(ready ? [ready.mesh] : [])]));
            failure.value = null;
        } catch (error) {
            if (mine === turn) failure.value = error instanceof Error ? error.message : String(error);
        } finally {
            if (mine === turn) loading.value = false;
        }
        look();
        if (pendingFlight) fly();
    }

    function look() {
        view.value?.setLook(bench.lens, bench.dark, bench.section);
    }

    let pendingFlight = false;
    function fly() {
        const target = view.value;
        if (!target) return;
        pendingFlight = loading.value;
        if (pendingFlight) return;
        const place = bench.finding?.place;
        if (place)
            target.flyTo(new THREE.Vector3(...(place.centre as [number, number, number])), place.radius);
        else target.look(null);
    }

    const marks = computed(() => {
        const problem = forecast.problem?.places ?? [];
        const places = problem.map((p) => ({
            centre: new THREE.Vector3(...(p as [number, number, number])),
            radius: 0,
        }));
        const finding = bench.finding;
        // Rims and gaps show themselves; other findings get a ring.
        if (finding && finding.kind !== 'rim' && finding.kind !== 'gap') {
            const centre = new THREE.Vector3(...(finding.place.centre as [number, number, number]));
            places.push({ centre, radius: finding.place.radius });
        }
        return places;
    });

    watch(
        [view, () => bench.shownParts.map((p) => `${p.id}:${p.mesh}`).join(), () => forecast.ready],
        refresh,
    );
    watch([() => bench.lens, () => bench.dark, () => bench.section], look);
    watch(() => bench.flights, fly, { flush: 'post' });
    watch(marks, (now) => view.value?.setMarks(now));
    return { loading, failure };
}
