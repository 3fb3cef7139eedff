// Keeps the drawings on the bench in step with parts, forecast, lens and selection.
import * as THREE from 'three';
import { computed, ref, shallowRef, watch, type ShallowRef } from 'vue';
import { watched, type Far } from '../api/watched';
import type { Action, Figures, Part } from '../api/client';
import { useBench } from './bench';
import { useBoard } from './board';
import { useCapacity } from './capacity';
import { useClearance } from './clearance';
import type { Xyz } from '../rimRuns';
import { useFasten } from './fasten';
import { useForecast } from './forecast';
import { useJob } from './job';
import { usePicks } from '../tools/picking/picks';
import { useSections } from './sections';
import { useParts, type ColourBy } from './parts';
import { useWalls } from './walls';
import type { Bench } from '../viewport/bench';
import type { Look } from '../viewport/views';
import { Model } from '../viewport/model';
import { chamberTint } from '../chambers';

/** Drawings kept for going back and forth (undo, forecasts). */
const KEPT = 12;

/** The most parts that are put on the bench to be clicked. */
const MOST_OFFERED = 60;

/** The number under which the state that a part is compared with is drawn. */
const FORMER = -1_000_000;
/** The number under which what a step would lose is drawn. */
const LOST = -2_000_000;
/** Parts coloured by how they stand. */
const STATE_COLOURS: Record<Figures['state'], string> = {
    open: '#C9A24B',
    tangled: '#B0495A',
    flipped: '#3F8F82',
    sealed: '#8FA3AE',
};
/** What is taken away. */
const AWAY = '#B8243C';
/** Whether other parts of a step are still shown beside its forecast. */
const keepsOthers = (a: Action) =>
    a.kind === 'shape.chambers' || a.kind === 'shape.hull' || (a.kind === 'shape.difference' && !a.swap);

export function useModels(view: ShallowRef<Bench | null>) {
    const bench = useBench();
    const board = useBoard();
    const forecast = useForecast();
    const jobs = useJob();
    const picks = usePicks();
    const walls = useWalls();
    const clearance = useClearance();
    const capacity = useCapacity();
    const sections = useSections();
    const fasten = useFasten();
    const parts = useParts();
    const loading = ref(false);
    const failure = ref<string | null>(null);
    /** The greatest distance shown by the deviation lens, mm. */
    const farthest = ref(0);
    const cache = new Map<string, Model>();
    let turn = 0;
    let stop = new AbortController();
    /** How far a drawing is that takes long. */
    const far = shallowRef<Far | null>(null);

    async function model(mesh: string, triangles: number): Promise<Model> {
        const known = cache.get(mesh);
        if (known) return known;
        const made = await Model.load(mesh, triangles, new AbortController().signal);
        cache.set(mesh, made);
        return made;
    }

    /** A drawing with figures, which may take long; how far it is is told. */
    async function figured(key: string, what: string): Promise<Model> {
        const made =
            cache.get(key) ??
            (await watched(
                (n) => Model.loadFigured(what, n),
                (f) => (far.value = f),
                stop.signal,
            ));
        cache.set(key, made);
        return made;
    }

    /** The drawing of a part by how far it lies from what came in, where it does. */
    async function deviating(mesh: string, part: number): Promise<Model | null> {
        const from = jobs.origin(part);
        if (bench.lens !== 'deviation' || !from || from === mesh) return null;
        return figured(`${mesh} from ${from}`, `${mesh}/deviation/${from}/display.glb`);
    }

    /** The drawing of a solid by how thick it is, or of the selected part by how far it stands off another. */
    async function walled(mesh: string, solid: boolean, selected: boolean): Promise<Model | null> {
        if (bench.lens !== 'wall') return null;
        const beside = clearance.other;
        if (beside) {
            if (!selected) return null;
            const what = `${mesh}/clearance/${beside.mesh}/display.glb`;
            const made = await figured(`${mesh} beside ${beside.mesh}`, what);
            made.setWall(clearance.asked * 4 || 1, clearance.asked);
            return made;
        }
        if (!solid) return null;
        const query = `ray=${walls.ray}&outside=${walls.outside}`;
        const made = await figured(`${mesh} wall ${query}`, `${mesh}/wall/display.glb?${query}`);
        // What misses by less than the measure is right to is not hatched, nor told as a finding.
        made.setWall(walls.top, (walls.least ?? 0) * 0.97);
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

    /** Parts that stand on the bench to be clicked, as long as none is chosen. */
    function offeredParts(): number[] {
        const asker = picks.partAsker;
        if (!asker || asker.chosen().length) return [];
        return jobs.parts.map((p) => p.id).slice(0, MOST_OFFERED);
    }

    async function refresh() {
        const target = view.value;
        if (!target) return;
        const mine = ++turn;
        stop.abort();
        stop = new AbortController();
        loading.value = true;
        try {
            // While other parts are chosen for a step they are shown, and then what the step makes of them.
            const { draft } = forecast;
            const chosen =
                draft && 'with' in draft && (!forecast.ready || keepsOthers(draft)) ? draft.with : [];
            const sheet = draft?.kind === 'shape.saw' && 'sheet' in draft.by ? draft.by.sheet : 0;
            const offered = offeredParts();
            const wanted = jobs.parts.filter(
                (p) =>
                    bench.shownParts.includes(p) ||
                    chosen.includes(p.id) ||
                    p.id === sheet ||
                    offered.includes(p.id),
            );
            const models = new Map<number, Model>();
            const { ready } = forecast;
            const instead = bench.part?.id;
            const used = new Set<string>(ready ? [ready.mesh] : []);
            const cut = fasten.shownMesh;
            if (cut) used.add(cut);
            for (const part of wanted) {
                const shown =
                    (cut && part.id === instead ? await model(cut, 0) : null) ??
                    (await deviating(part.mesh, part.id)) ??
                    (await walled(part.mesh, part.figures.state === 'sealed', part.id === instead)) ??
                    (await model(part.mesh, part.figures.triangles));
                if (part.id === instead) farthest.value = shown.farthest;
                models.set(part.id, shown);
                used.add(part.mesh).add(`${part.mesh} from ${jobs.origin(part.id)}`);
            }
            const preview = ready
                ? (instead !== undefined && (await deviating(ready.mesh, instead))) ||
                  (await walled(ready.mesh, ready.report.after.state === 'sealed', true)) ||
                  (await model(ready.mesh, ready.report.after.triangles))
                : null;
            // What is being drawn is seen on the board.
            for (const [n, made] of (board.on ? [] : (ready?.report.made ?? [])).entries()) {
                models.set(-1 - n, await model(made.mesh, made.figures.triangles));
                used.add(made.mesh);
            }
            const mesh = bench.part?.mesh;
            if (ready && mesh && !ready.asItWas && (ready.report.harm?.lost.area ?? 0) > 0) {
                const key = `${mesh} lost in ${ready.mesh}`;
                models.set(LOST, await figured(key, `${ready.mesh}/lost/${mesh}/display.glb`));
                used.add(key);
            }
            const former = jobs.asOf?.from;
            if (former && wanted.length && former !== wanted[0]!.mesh) {
                models.set(FORMER, await model(former, 0));
                used.add(former);
            }
            if (mine !== turn) return;
            if (preview && bench.lens === 'deviation') farthest.value = preview.farthest;
            picks.rimLines =
                models
                    .get(instead ?? -1)
                    ?.rims.map((r) => ({ name: r.name, points: r.points.map((p) => p.toArray() as Xyz) })) ??
                [];
            looks();
            target.show(models, preview && instead !== undefined ? { model: preview, instead } : null);
            trim(used);
            failure.value = null;
        } catch (error) {
            if (mine === turn) failure.value = error instanceof Error ? error.message : String(error);
        } finally {
            if (mine === turn) loading.value = false;
        }
        look();
        if (pendingFlight) fly();
    }

    /** What is taken away, and chambers, are drawn in looks of their own. */
    function looks() {
        const { draft, ready } = forecast;
        const own = new Map<number, Look>();
        if (draft?.kind === 'shape.difference') {
            const away = draft.swap && !ready ? [bench.part?.id ?? 0] : draft.swap ? [] : draft.with;
            for (const id of away) own.set(id, { tint: AWAY, ghost: true });
        } else if (draft?.kind === 'shape.chambers') {
            for (const part of jobs.parts) own.set(part.id, { ghost: true });
            ready?.report.made?.forEach((_, n) => {
                const solid = picks.chambers.includes(n) || picks.aimedChamber === n;
                own.set(-1 - n, { tint: chamberTint(n), ghost: !solid });
            });
        }
        if (board.on) for (const part of jobs.parts) own.set(part.id, { ghost: true });
        for (const id of offeredParts())
            if (id !== bench.part?.id && !own.has(id)) own.set(id, { ghost: true });
        // Where it is weighed a part looks like what it is made of.
        const by = !draft && bench.station === 'weigh' ? 'material' : parts.colourBy;
        for (const part of jobs.parts) {
            const colour = colourOf(part, by);
            if (colour && !own.has(part.id)) own.set(part.id, { colour });
        }
        // A vessel is seen through, unless it is cut open.
        if (!draft && bench.station === 'weigh' && capacity.here && capacity.got && !sections.on.length)
            own.set(capacity.vessel!.part, { ghost: true });
        if (!draft && clearance.other && bench.lens === 'wall') own.set(clearance.other.id, { ghost: true });
        if (jobs.asOf?.from) own.set(FORMER, { ghost: true });
        own.set(LOST, { tint: AWAY, ghost: true });
        view.value?.setLooks(own);
    }

    function colourOf({ material, colour, figures }: Part, by: ColourBy): string | null | undefined {
        if (by === 'own') return colour;
        if (by === 'state') return STATE_COLOURS[figures.state];
        const generic = jobs.materials.find((m) => m.key === material?.material)?.colour;
        return material?.own ? material.own.colour : generic;
    }

    function look() {
        view.value?.setLook(bench.lens, bench.dark);
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
        // Where they overlap or stand too near the findings say so.
        const pair = clearance.other && clearance.report?.findings.length === 0 ? clearance.report : null;
        for (const p of pair ? [pair.from, pair.to] : [])
            if (p) places.push({ centre: new THREE.Vector3(...(p as [number, number, number])), radius: 0 });
        for (const n of forecast.ready?.report.notices ?? []) {
            const centre = new THREE.Vector3(...(n.place.centre as [number, number, number]));
            places.push({ centre, radius: n.place.radius });
        }
        const finding = bench.finding;
        // Rims and gaps show themselves; other findings get a ring.
        if (finding && !['rim', 'gap', 'partly_shared', 'needle_rim'].includes(finding.kind)) {
            const centre = new THREE.Vector3(...(finding.place.centre as [number, number, number]));
            places.push({ centre, radius: finding.place.radius });
        }
        return places;
    });

    watch(
        [
            view,
            () => bench.shownParts.map((p) => `${p.id}:${p.mesh}`).join(),
            () => forecast.ready,
            () => (forecast.draft && 'with' in forecast.draft ? forecast.draft.with.join() : ''),
            () => JSON.stringify(forecast.draft && 'by' in forecast.draft && forecast.draft.by),
            () => (bench.lens === 'deviation' || bench.lens === 'wall' ? bench.lens : ''),
            () => `${walls.ray} ${walls.outside} ${walls.least}`,
            () => `${clearance.other?.mesh} ${clearance.asked}`,
            () => jobs.asOf?.from,
            () => fasten.shownMesh,
            () => offeredParts().join(),
        ],
        refresh,
    );
    const seeThrough = computed(() => bench.station === 'weigh' && capacity.here && !sections.on.length);
    watch(
        [
            () => forecast.draft,
            () => picks.chambers,
            () => picks.aimedChamber,
            seeThrough,
            () => bench.lens === 'wall' && clearance.other?.id,
            () => [bench.station === 'weigh', parts.colourBy],
            () => board.on,
            () => jobs.parts,
            () => !capacity.got,
        ],
        looks,
    );
    watch([() => bench.lens, () => bench.dark], look);
    watch(() => bench.flights, fly, { flush: 'post' });
    watch(marks, (now) => view.value?.setMarks(now));
    return { loading, far, failure, farthest };
}
