// The profile a body is made of: its drawing, and the regions picked of it.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { answer, api, type Action, type Schemas } from '../api/client';
import { within, type BoardView, type Flat } from '../board/plane';
import { usePicks } from '../tools/picking/picks';
import { useBench } from './bench';
import { useForecast } from './forecast';
import { useJob } from './job';

type Region = Schemas['RegionPick'];
type OfProfile = Extract<
    Action,
    { kind: 'shape.extrude' | 'shape.revolve' | 'shape.sweep' | 'shape.relief' | 'shape.emboss' }
>;
const kinds: readonly string[] = [
    'shape.extrude',
    'shape.revolve',
    'shape.sweep',
    'shape.relief',
    'shape.emboss',
];

export const useProfiles = defineStore('profiles', () => {
    const bench = useBench();
    const forecast = useForecast();
    const jobs = useJob();
    const picks = usePicks();
    const step = computed(() => {
        const a = forecast.draft;
        return a && kinds.includes(a.kind) ? (a as OfProfile) : null;
    });
    const relief = computed(() => (step.value?.kind === 'shape.relief' ? step.value : null));
    /** The part whose profile it is. */
    const part = computed(() => {
        const named = step.value?.profile;
        return step.value && named ? (jobs.parts.find((p) => p.id === named) ?? null) : bench.part;
    });
    const drawn = computed(() => jobs.parts.filter((p) => p.figures.drawn && !p.figures.wire));
    const view = shallowRef<BoardView | null>(null);
    /** The place under the pointer. */
    const under = ref<Flat | null>(null);
    const picking = computed(() => step.value !== null && forecast.inSight && view.value !== null);
    const squares = ref(0);

    watch(
        () => (step.value && drawn.value.includes(part.value!) ? part.value!.mesh : null),
        async (mesh) => {
            view.value = null;
            if (!mesh) return;
            const got = await answer(
                api.GET('/api/v1/meshes/{mesh}/profile', { params: { path: { mesh } } }),
            ).catch(() => null);
            if (mesh === part.value?.mesh && step.value) view.value = got?.board ?? null;
        },
        { immediate: true },
    );

    const regionAt = (at: Flat | null) =>
        at && view.value ? view.value.regions.findIndex((r) => within(r, at)) : -1;
    const aimed = computed(() => regionAt(under.value));
    const facts = computed(() => view.value?.seen?.regions ?? []);
    const isOf = (n: number) => (r: Region) =>
        r.lines.join() === facts.value[n]?.lines.join() && regionAt(r.at as unknown as Flat) === n;
    const isPicked = (n: number) =>
        !!step.value && 'regions' in step.value && !!step.value.regions?.some(isOf(n));
    /** Of a relief the height of each region. */
    const heights = computed(() =>
        relief.value
            ? facts.value.map(
                  (_, n) =>
                      relief.value!.heights?.find((h) => isOf(n)(h.region))?.height ??
                      relief.value!.rest ??
                      0,
              )
            : [],
    );
    /** The region of a relief whose height is asked for. */
    const chosen = ref<number | null>(null);
    /** How dark a region of a relief is drawn, 0 to 1 by its height; null where it is left out. */
    function shade(n: number): number | null {
        const h = heights.value[n];
        const foot = -(relief.value?.below ?? 0);
        if (h === undefined || h <= foot) return null;
        const most = Math.max(...heights.value);
        return most > foot ? (h - foot) / (most - foot) : 1;
    }
    /** Those that make the body: the picked ones, else those that nested outlines mean. */
    const taken = computed(() => {
        const all = facts.value.map((_, n) => n);
        if (relief.value) return all.filter((n) => shade(n) !== null);
        const own = all.filter(isPicked);
        return own.length ? own : all.filter((n) => facts.value[n]!.depth % 2 === 0);
    });

    /** Picks the region at a place, or lets go of it. What stood there without picks stays picked beside it. */
    function toggle(n: number) {
        if (relief.value) return void (chosen.value = n);
        const f = facts.value[n];
        if (!step.value || !f) return;
        const now = taken.value.includes(n) ? taken.value.filter((k) => k !== n) : [...taken.value, n];
        const pick = (k: number): Region => ({ at: facts.value[k]!.at, lines: facts.value[k]!.lines });
        picks.change({ ...step.value, regions: now.map(pick) } as Action);
    }
    /** Gives a region of a relief a height of its own, or none. */
    function raise(n: number, height: number | null) {
        const [a, f] = [relief.value, facts.value[n]];
        if (!a || !f) return;
        const others = (a.heights ?? []).filter((h) => !isOf(n)(h.region));
        const own = height === null ? [] : [{ region: { at: f.at, lines: f.lines }, height }];
        picks.change({ ...a, heights: [...others, ...own] });
    }
    function clickAt(at: readonly number[]) {
        const n = regionAt(at as unknown as Flat);
        if (n >= 0) toggle(n);
    }

    return {
        step,
        part,
        drawn,
        view,
        under,
        picking,
        squares,
        aimed,
        facts,
        taken,
        heights,
        chosen,
        shade,
        raise,
        toggle,
        clickAt,
    };
});
