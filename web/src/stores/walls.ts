// How thick the selected part is, and what the way of making asks of it. Kept by content hash; nothing here changes the job.
import { defineStore } from 'pinia';
import { computed, ref, shallowReactive, shallowRef, watch } from 'vue';
import { answer, api, type Schemas } from '../api/client';
import { useBench } from './bench';
import { useJob } from './job';

type Report = Schemas['WallView'];

export const useWalls = defineStore('walls', () => {
    const bench = useBench();
    const jobs = useJob();
    const process = ref(localStorage.getItem('nimbet.process') ?? 'investment-bronze');
    /** The least wall where a person has set their own, mm. */
    const own = ref<number | null>(Number(localStorage.getItem('nimbet.wall')) || null);
    const outside = ref(false);
    const ray = ref(false);
    const busy = ref(false);
    /** The thin area that was clicked. */
    const chosen = ref<number | null>(null);
    /** Where the part comes nearest to another, on both. */
    const between = shallowRef<readonly (readonly number[])[] | null>(null);
    /** The thickness under the pointer, mm. */
    const under = ref<number | null>(null);
    const kept = shallowReactive(new Map<string, Report>());

    watch(process, (now) => {
        localStorage.setItem('nimbet.process', now);
        own.value = null;
    });
    watch(own, (now) => localStorage.setItem('nimbet.wall', now == null ? '' : String(now)));

    const asks = computed(() => jobs.processes.find((p) => p.key === process.value) ?? null);
    const least = computed(
        () => own.value ?? (outside.value ? (asks.value?.slot ?? null) : (asks.value?.wall ?? null)),
    );
    /** The query that tells one map from another. */
    const query = computed(() => ({
        ray: ray.value,
        outside: outside.value,
        ...(least.value ? { below: least.value } : {}),
        ...(asks.value && !outside.value ? { corner: asks.value.corner } : {}),
    }));
    const keyOf = (mesh: string) => `${mesh} ${JSON.stringify(query.value)}`;
    const measurable = computed(() => bench.part?.figures.state === 'sealed');
    const seen = computed(() => (bench.part && kept.get(keyOf(bench.part.mesh))) || null);
    const report = computed(() => seen.value?.wall ?? null);
    /** Thin areas, then corners, as they are listed. */
    const places = computed(() => [
        ...(seen.value?.wall.thin ?? []).map((t) => ({ text: t.text, at: t.at, place: t.place })),
        ...(seen.value?.corners ?? []).map((c) => ({ text: c.text, at: c.place.centre, place: c.place })),
    ]);
    /** The top of the scale: what is thicker is as good as any. */
    const top = computed(() => (least.value ?? 1) * 4);

    async function measure() {
        const part = bench.part;
        if (!part || !measurable.value || report.value) return;
        const key = keyOf(part.mesh);
        busy.value = true;
        try {
            const params = { path: { mesh: part.mesh }, query: query.value };
            const got = await answer(api.GET('/api/v1/meshes/{mesh}/wall', { params }));
            kept.set(key, got);
        } catch {
            // The gauge says that there is none.
        } finally {
            busy.value = false;
        }
    }
    watch([() => bench.part?.mesh, query, () => jobs.processes.length], () => void measure(), {
        immediate: true,
    });
    watch([() => bench.part?.mesh, query], () => {
        chosen.value = null;
        under.value = null;
    });

    const area = computed(() => (chosen.value == null ? null : (places.value[chosen.value] ?? null)));
    function show(n: number) {
        chosen.value = n;
        bench.flights++;
    }

    return {
        process,
        own,
        outside,
        ray,
        busy,
        under,
        between,
        asks,
        least,
        query,
        measurable,
        report,
        places,
        top,
        chosen,
        area,
        show,
    };
});
