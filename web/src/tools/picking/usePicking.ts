// Picking for the considered step: clicks, the brush, and what is drawn of the picks.
import * as THREE from 'three';
import { computed, ref, watch, type ShallowRef } from 'vue';
import { chamberName } from '../../chambers';
import { millimetres, volume } from '../../format';
import { planesOf, type Plane } from '../../planes';
import type { Xyz } from '../../rimRuns';
import { useBench } from '../../stores/bench';
import { useEdgeRuns } from '../../stores/edgeRuns';
import { useForecast } from '../../stores/forecast';
import { useMeshes } from '../../stores/meshes';
import { edgeMarks } from './edgeMarks';
import { usePicks, type Picked } from './picks';
import { useSeats } from '../../stores/seats';
import type { Bench } from '../../viewport/bench';
import { onGrid, snapsOf, type Snap } from '../../viewport/snapping';

export interface Dot {
    key: string;
    text: string;
    x: number;
    y: number;
}

export function usePicking(view: ShallowRef<Bench | null>) {
    const bench = useBench();
    const meshes = useMeshes();
    const picks = usePicks();
    const forecast = useForecast();
    const seats = useSeats();
    const edges = useEdgeRuns();
    const marks = computed(() => edgeMarks(edges.found, edges.pointed, forecast.draft));
    /** Where the pointer would pick, with what it is drawn to. */
    const aim = ref<{ at: Xyz; text: string } | null>(null);
    const dots = ref<Dot[]>([]);
    /** The stroke being painted. */
    const stroke = ref<Picked[]>([]);
    const active = computed(() => picks.picking !== null);
    const kind = computed(() => picks.picking?.kind ?? null);

    const size = () => {
        const s = view.value?.box().getSize(new THREE.Vector3()).length() ?? 1;
        return s || 1;
    };

    /** A click while something is to be picked. */
    async function click(x: number, y: number) {
        const [target, part, now] = [view.value, bench.part, picks.picking];
        if (!target || !part || !now) return;
        aim.value = null;
        if (now.kind === 'face' || now.kind === 'shell') {
            const hit = target.probe.surfaceAt(x, y, part.id);
            if (!hit) return;
            // A face clicked again is taken back, wherever it is clicked.
            const held =
                now.kind === 'face'
                    ? now.points.find((p) => faceOf(p) === hit.face)
                    : now.points.find((p) => distance(p.at, hit.at) < size() * 0.01);
            faceAt.set(key(hit.at), hit.face);
            if (held) {
                picks.set(now.points.filter((p) => p !== held));
                return;
            }
            const face = now.kind === 'face' ? await meshes.anchor(part.mesh, hit.face, hit.at) : undefined;
            picks.set([...now.points, { at: hit.at, face }]);
        } else if (now.kind === 'edge') {
            const at = target.probe.borderAt(x, y, part.id);
            if (at) picks.toggle({ at }, size() * 1e-6);
        } else if (now.kind === 'point') {
            const hit = target.probe.anySurfaceAt(x, y);
            if (hit)
                picks.toggle(
                    {
                        at: hit.at,
                        normal: hit.normal,
                        on: { part: hit.part, face: hit.face },
                        seen: target.eye.at,
                    },
                    size() * 1e-3,
                );
        } else if (now.kind === 'spot') {
            const found = await spotAt(x, y);
            if (!found) return;
            const held = now.points.find((p) => distance(p.at, found.at) < size() * 1e-3);
            if (held) return picks.set(now.points.filter((p) => p !== held));
            const face = await meshes.anchor(part.mesh, found.face, found.at);
            picks.set([...now.points, { at: found.at, normal: found.normal, face }]);
        } else if (now.kind === 'sight') {
            const { along, about } = sight(target);
            const at = target.probe.onPlane(x, y, about, along);
            if (at) picks.set([...now.points, { at, normal: along }]);
        } else if (now.kind === 'chamber') {
            const made = target.probe.madeAt(x, y);
            if (made !== null) picks.toggleChamber(made);
        } else if (now.kind === 'rim point') {
            const found = rimPoint(x, y);
            if (!found) return;
            if (picks.stage === 'points') {
                picks.toggle({ at: found.at }, size() * 1e-4);
            } else {
                const nearest = picks.runs
                    .filter((r) => r.rim === found.rim)
                    .map((r) => ({ r, off: Math.min(...r.line.map((p) => distance(p, found.at))) }))
                    .sort((a, b) => a.off - b.off)[0];
                if (nearest) picks.toggleRun(nearest.r);
            }
        }
    }

    /** The plane a line is drawn on: that of its first point, and else of the view. */
    function sight(target: Bench): { along: Xyz; about: Xyz } {
        const a = forecast.draft;
        const first = picks.picking?.points[0];
        if (first && a?.kind === 'shape.saw' && 'line' in a.by)
            return { along: a.by.line.along as Xyz, about: first.at };
        return target.probe.sight();
    }

    /** A place on the part's surface, drawn to what has a name there, or to the grid. */
    async function spotAt(x: number, y: number) {
        const [target, part] = [view.value, bench.part];
        const hit = part && target?.probe.surfaceAt(x, y, part.id);
        if (!target || !part || !hit) return null;
        const key = `${part.mesh} ${hit.face}`;
        if (snapKey !== key) {
            snapKey = key;
            snaps = snapsOf(await meshes.facesOf(part.mesh), hit.face, target.probe.borders(part.id));
        }
        const off = (s: Snap) => {
            const on = target.onScreen(s.at);
            return on ? Math.hypot(on.x - x, on.y - y) : Infinity;
        };
        const near = snaps.filter((s) => off(s) < 12).sort((a, b) => off(a) - off(b))[0];
        const { at, normal, face } = hit;
        if (near) return { at: near.at, text: near.text, normal, face };
        if (picks.grid > 0) return { at: onGrid(at, normal, picks.grid), text: 'grid', normal, face };
        return { at: at.map((v) => Number(v.toFixed(3))) as Xyz, text: '', normal, face };
    }
    let snapKey = '';
    let snaps: Snap[] = [];

    const rimPoint = (x: number, y: number) =>
        view.value?.probe.rimPointAt(x, y, picks.rimLines, picks.picking?.points.map((p) => p.at) ?? []) ??
        null;

    function hover(x: number, y: number) {
        const [target, part] = [view.value, bench.part];
        aim.value = null;
        if (!target || !part) return;
        if (kind.value === 'rim point' && picks.stage === 'points') {
            const found = rimPoint(x, y);
            if (found) aim.value = { at: found.at, text: found.snap };
        } else if (kind.value === 'spot') {
            void spotAt(x, y).then((found) => {
                if (kind.value !== 'spot') return;
                aim.value = found && { at: found.at, text: found.text || coordinates(found.at) };
                place();
            });
        } else if (kind.value === 'chamber') {
            picks.aimedChamber = target.probe.madeAt(x, y);
        } else if (kind.value === 'brush') {
            const hit = target.probe.surfaceAt(x, y, part.id);
            if (hit) aim.value = { at: hit.at, text: '' };
        }
        place();
    }

    /** Paints a dab if the pointer has moved on far enough. */
    function paint(x: number, y: number) {
        const [target, part] = [view.value, bench.part];
        if (!target || !part) return;
        const hit = target.probe.surfaceAt(x, y, part.id);
        if (!hit) return;
        aim.value = { at: hit.at, text: '' };
        const last = stroke.value[stroke.value.length - 1];
        if (last && distance(last.at, hit.at) < picks.brush * 0.4) return;
        stroke.value = [...stroke.value, { at: hit.at, radius: picks.brush }];
    }

    function endStroke() {
        const [now, done] = [picks.picking, stroke.value];
        stroke.value = [];
        if (now && done.length) picks.set([...now.points, ...done]);
    }

    const coordinates = (at: Xyz) => at.map((x) => millimetres(x).replace(' mm', '')).join(', ');
    const faceAt = new Map<string, number>();
    const faceOf = (p: Picked) => faceAt.get(key(p.at)) ?? p.face?.face;
    const key = (at: Xyz) => at.join();
    const distance = (a: Xyz, b: Xyz) => Math.hypot(...a.map((x, i) => x - b[i]!));

    /** Puts the dots where their picks are on the screen. */
    function place() {
        const target = view.value;
        const now = picks.picking;
        const list: Dot[] = [];
        const put = (at: Xyz, text: string, name: string) => {
            const on = target?.onScreen(at);
            if (on) list.push({ key: name, text, ...on });
        };
        if (target && now && now.kind !== 'brush' && now.kind !== 'face') {
            // Of bores each place has its number; of other picks each pick.
            const laid = now.kind === 'spot' ? seats.found?.seats : null;
            if (laid) laid.forEach((s) => put(s.at as Xyz, String(s.number), `pick ${s.number}`));
            else if (!edges.found) now.points.forEach((p, i) => put(p.at, String(i + 1), `pick ${i}`));
            if (laid) seats.found!.missed.forEach((p, i) => put(p as Xyz, 'meets nothing', `missed ${i}`));
            for (const r of picks.runs) put(r.through, r.name, `run ${r.name}`);
        }
        for (const m of marks.value.names) put(m.at, m.text, m.key);
        if (now?.kind === 'chamber')
            forecast.ready?.report.made?.forEach((c, i) => {
                if (c.inside)
                    put(
                        c.inside as Xyz,
                        `${chamberName(i)} ${volume(c.figures.volume ?? 0)}`,
                        `chamber ${i}`,
                    );
            });
        if (aim.value && target && now?.kind !== 'brush') put(aim.value.at, aim.value.text, 'aim');
        dots.value = list;
    }

    /** The brush as it lies on the screen. */
    const brushRing = computed(() => {
        const target = view.value;
        if (kind.value !== 'brush' || !aim.value || !target) return null;
        const on = target.onScreen(aim.value.at);
        return on && { ...on, radius: target.pixels(aim.value.at, picks.brush) };
    });

    watch([kind, () => bench.part?.id], () => {
        view.value?.eye.setTurning(kind.value !== 'brush');
        aim.value = null;
        if (kind.value === 'brush' && !picks.brush) picks.brush = Number((size() * 0.03).toPrecision(1));
    });
    const planes = computed(() => planesOf(forecast.draft).map((p) => p.plane));
    watch(
        [
            () => picks.picking?.points,
            () => picks.runs,
            () => picks.chosenRuns,
            () => seats.found,
            marks,
            stroke,
            planes,
            view,
        ],
        () => {
            const now = picks.picking;
            const painted = now?.kind === 'brush' ? [...now.points, ...stroke.value] : [];
            view.value?.setPicks({
                runs: [
                    ...picks.runs.map((r) => ({
                        line: r.line,
                        chosen: picks.chosenRuns.some((c) => c.name === r.name),
                    })),
                    ...directions(),
                    ...marks.value.lines,
                    ...(now?.kind === 'sight' && now.points.length > 1
                        ? [{ line: now.points.map((p) => p.at), chosen: true }]
                        : []),
                ],
                planes: planes.value.map((p) => drawnPlane(p)),
                borders: now?.kind === 'edge' ? (bench.part?.id ?? null) : null,
                dabs: painted.map((p) => ({ at: p.at, radius: p.radius ?? 1 })),
            });
            const faces = now?.kind === 'face' ? now.points.flatMap((p) => faceOf(p) ?? []) : [];
            view.value?.setChosenFaces(
                bench.part?.id ?? null,
                now ? faces : bench.face === null ? [] : [bench.face],
            );
            place();
        },
    );
    /** Which way bores go from their mouths, as short lines. */
    function directions() {
        const long = size() * 0.06;
        return (seats.found?.seats ?? []).map(({ at, way }) => {
            const to = (by: number) => at.map((x, i) => x + way[i]! * by) as Xyz;
            return { line: [to(-long), to(long * 0.3)], chosen: false, bore: true };
        });
    }
    /** A square of a plane round the part. */
    function drawnPlane({ at, normal }: Plane) {
        const f = bench.part?.figures;
        const middle = f ? f.least.map((x, i) => x + f.size[i]! / 2) : at;
        const long = Math.hypot(...normal) || 1;
        const off = middle.reduce((s, x, i) => s + ((at[i]! - x) * normal[i]!) / long, 0);
        const about = middle.map((x, i) => x + (normal[i]! / long) * off) as Xyz;
        return { about, normal: normal as Xyz, size: Math.hypot(...(f?.size ?? [100])) * 0.85 };
    }
    watch(
        () => bench.face,
        (face) => {
            if (!picks.picking)
                view.value?.setChosenFaces(bench.part?.id ?? null, face === null ? [] : [face]);
        },
    );
    watch(() => forecast.draft, place);

    return { active, kind, aim, dots, brushRing, click, hover, paint, endStroke, place };
}
