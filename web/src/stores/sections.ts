// Cuts to look at: kept with the job, drawn on the bench, and never a change of a part.
import { defineStore } from 'pinia';
import { computed, ref, shallowReactive, watch } from 'vue';
import { answer, api, type Schemas } from '../api/client';
import type { Plane } from '../planes';
import type { Xyz } from '../rimRuns';
import { useBench } from './bench';
import { useJob } from './job';

export type Cut = Schemas['Cut'];
export type Section = Schemas['NamedSection'];

const dot = (a: readonly number[], b: readonly number[]) => a.reduce((s, x, i) => s + x * b[i]!, 0);

export const useSections = defineStore('sections', () => {
    const bench = useBench();
    const jobs = useJob();
    /** As they are here; the job follows a moment later. */
    const list = ref<Section[]>([]);
    const active = ref(0);
    const cuts = shallowReactive(new Map<string, Cut>());
    /** The wall in a cut under the pointer, mm. */
    const under = ref<number | null>(null);
    let timer = 0;
    let saving = false;

    watch(
        () => JSON.stringify(jobs.job?.setup.sections ?? []),
        (now) => {
            if (!saving && now !== JSON.stringify(list.value)) list.value = JSON.parse(now) as Section[];
        },
        { immediate: true },
    );
    function save() {
        saving = true;
        window.clearTimeout(timer);
        timer = window.setTimeout(async () => {
            await jobs.setUp({ sections: list.value });
            saving = false;
        }, 500);
    }

    const on = computed(() => list.value.filter((s) => s.on));
    const shown = computed(() => list.value[active.value] ?? null);

    function add(plane: Plane) {
        const used = new Set(list.value.map((s) => s.name));
        let n = list.value.length + 1;
        while (used.has(`Section ${n}`)) n++;
        list.value = [
            ...list.value,
            { name: `Section ${n}`, on: true, plane: { at: plane.at, normal: plane.normal } },
        ];
        active.value = list.value.length - 1;
        save();
    }
    /** Across an axis, through the middle of the part. */
    function across(axis: number) {
        const f = bench.part?.figures;
        if (!f) return;
        const at = f.least.map((x, i) => Number((x + f.size[i]! / 2).toFixed(3)));
        // The half that is nearer to who looks from home goes out of sight.
        add({ at, normal: [0, 1, 2].map((i) => (i !== axis ? 0 : axis === 1 ? -1 : 1)) });
    }
    function change(n: number, to: Partial<Section>) {
        list.value = list.value.map((s, i) => (i === n ? { ...s, ...to } : s));
        active.value = n;
        save();
    }
    function remove(n: number) {
        list.value = list.value.filter((_, i) => i !== n);
        active.value = Math.max(0, Math.min(active.value, list.value.length - 1));
        save();
    }
    /** Moves the active one along its normal, mm. */
    function move(by: number) {
        const s = shown.value;
        if (!s) return across(0);
        const long = Math.hypot(...s.plane.normal);
        const at = s.plane.at.map((x, i) => Number((x + (s.plane.normal[i]! / long) * by).toFixed(4)));
        change(active.value, { on: true, plane: { ...s.plane, at: at as Xyz } });
    }
    /** Turns all off, or those that were on again; makes the first. */
    let were: boolean[] = [];
    function toggle() {
        if (!list.value.length) return across(0);
        if (on.value.length) {
            were = list.value.map((s) => s.on);
            list.value = list.value.map((s) => ({ ...s, on: false }));
        } else {
            const again = were.length === list.value.length && were.some(Boolean);
            list.value = list.value.map((s, i) => ({ ...s, on: again ? were[i]! : i === active.value }));
        }
        save();
    }

    const keyOf = (mesh: string, s: Section) => `${mesh} ${s.plane.at.join()} ${s.plane.normal.join()}`;
    const cutOf = (mesh: string, s: Section) => cuts.get(keyOf(mesh, s)) ?? null;
    async function look(mesh: string, s: Section) {
        const key = keyOf(mesh, s);
        if (cuts.has(key)) return;
        const query = { at: s.plane.at.join(), normal: s.plane.normal.join() };
        const options = { params: { path: { mesh }, query } };
        const got = await answer(api.GET('/api/v1/meshes/{mesh}/cut', options)).catch(() => null);
        if (!got) return;
        // Of a plane that is dragged only the last places are kept.
        if (cuts.size > 60) for (const old of [...cuts.keys()].slice(0, 30)) cuts.delete(old);
        cuts.set(key, got.cut);
    }
    watch(
        [on, () => bench.shownParts.map((p) => p.mesh).join()],
        () => {
            for (const s of on.value) for (const p of bench.shownParts) void look(p.mesh, s);
        },
        { immediate: true, deep: true },
    );

    /** The wall at a place of a cut: square across from the nearest side. */
    function wallAt(cut: Cut, at: readonly number[]): number | null {
        const from = at.map((x, i) => x - cut.origin[i]!);
        const p = [dot(from, cut.u), dot(from, cut.v)];
        const sides = cut.contours.flatMap(({ points, closed }) =>
            points.flatMap((a, i) => {
                const b = points[i + 1] ?? (closed ? points[0] : undefined);
                return b ? [[a, b] as const] : [];
            }),
        );
        let best: { off: number; foot: number[]; way: number[] } | null = null;
        for (const [a, b] of sides) {
            const along = [b[0]! - a[0]!, b[1]! - a[1]!];
            const size = dot(along, along);
            if (!size) continue;
            const t = Math.min(1, Math.max(0, dot([p[0]! - a[0]!, p[1]! - a[1]!], along) / size));
            const foot = [a[0]! + along[0]! * t, a[1]! + along[1]! * t];
            const off = Math.hypot(p[0]! - foot[0]!, p[1]! - foot[1]!);
            const long = Math.sqrt(size);
            // Material lies on the left.
            const way = [-along[1]! / long, along[0]! / long];
            if (!best || off < best.off) best = { off, foot, way };
        }
        if (!best) return null;
        const { foot, way } = best;
        let across = Infinity;
        for (const [a, b] of sides) {
            const along = [b[0]! - a[0]!, b[1]! - a[1]!];
            const det = way[0]! * -along[1]! + way[1]! * along[0]!;
            if (Math.abs(det) < 1e-12) continue;
            const to = [a[0]! - foot[0]!, a[1]! - foot[1]!];
            const far = (to[0]! * -along[1]! + to[1]! * along[0]!) / det;
            const share = (way[0]! * to[1]! - way[1]! * to[0]!) / det;
            if (share >= 0 && share <= 1 && far > 1e-6 && far < across) across = far;
        }
        return Number.isFinite(across) ? across : null;
    }

    /** Where a cut of the parts shown is fetched as a drawing. */
    function drawing(s: Section, format: 'svg' | 'dxf') {
        const parts = bench.shownParts.map((p) => p.id).join();
        const query = new URLSearchParams({
            at: s.plane.at.join(),
            normal: s.plane.normal.join(),
            name: s.name,
            parts,
        });
        return `/api/v1/jobs/${jobs.job?.id}/cut/${format}?${query}`;
    }

    return {
        list,
        active,
        on,
        shown,
        under,
        add,
        across,
        change,
        remove,
        move,
        toggle,
        cutOf,
        wallAt,
        drawing,
    };
});
