// How thick the selected part is, and what the way of making asks of it. What is measured is kept by content hash.
import { defineStore } from 'pinia';
import { computed, reactive, ref, shallowReactive, shallowRef, watch } from 'vue';
import { answer, api, type Finding, type Schemas } from '../api/client';
import { useAsking } from './asking';
import { useBench } from './bench';
import { useJob } from './job';

type Report = Schemas['WallView'];
type Found = Schemas['WallFindingsView'];
type Making = Schemas['Making'];
/** The figures of a process that a house may set otherwise. */
export type Figure = 'wall' | 'pin' | 'slot' | 'corner' | 'drain';

export const useWalls = defineStore('walls', () => {
    const bench = useBench();
    const jobs = useJob();
    const outside = ref(false);
    const ray = ref(false);
    /** What is asked of the server: how thick the part is, and what is wrong with that. */
    const [measuring, looking] = [useAsking(), useAsking()];
    /** What is wrong with how the part stands to another. */
    const pairFindings = shallowRef<readonly Finding[]>([]);
    /** The thickness under the pointer, mm. */
    const under = ref<number | null>(null);
    const kept = shallowReactive(new Map<string, Report>());
    const foundBy = shallowReactive(new Map<string, Found>());

    const making = computed<Making>(() => jobs.job?.setup.making ?? { process: 'investment-bronze' });
    const process = computed(() => jobs.processes.find((p) => p.key === making.value.process) ?? null);
    /** The process with what the house has set otherwise. */
    const asks = computed(() => {
        if (!process.value) return null;
        const { wall, pin, slot, corner, drain } = making.value;
        const own = Object.entries({ wall, pin, slot, corner, drain }).filter(([, x]) => x != null);
        return { ...process.value, ...Object.fromEntries(own) } as typeof process.value;
    });
    const choose = (key: string) => jobs.setUp({ making: { process: key } });
    /** Sets a figure otherwise than the process has it; none goes back to that. */
    const ask = (figure: Figure, x: number | null) =>
        jobs.setUp({ making: { ...making.value, [figure]: x === process.value?.[figure] ? null : x } });

    const least = computed(() => (outside.value ? asks.value?.slot : asks.value?.wall) ?? null);
    /** The query that tells one map from another. */
    const query = computed(() => ({ ray: ray.value, outside: outside.value }));
    const keyOf = (mesh: string) => `${mesh} ${JSON.stringify(query.value)}`;
    const measurable = computed(() => bench.part?.figures.state === 'sealed');
    const report = computed(() => (bench.part && kept.get(keyOf(bench.part.mesh))?.wall) || null);
    const findingsKey = computed(() => {
        const part = bench.part;
        return part && measurable.value && jobs.job && !jobs.asOf
            ? `${jobs.job.id} ${part.id} ${part.mesh} ${JSON.stringify(making.value)}`
            : null;
    });
    const found = computed(() => (findingsKey.value && foundBy.get(findingsKey.value)) || null);
    /** The top of the scale: what is thicker is as good as any. */
    const top = computed(() => (least.value ?? 1) * 4);

    async function measure() {
        const part = bench.part;
        if (!part || !measurable.value || report.value) return;
        const key = keyOf(part.mesh);
        const params = { path: { mesh: part.mesh }, query: query.value };
        const url = '/api/v1/meshes/{mesh}/wall';
        const got = await measuring.ask((named) => answer(api.GET(url, { params, ...named })));
        if (got) kept.set(key, got);
    }
    async function look() {
        const [key, part, job] = [findingsKey.value, bench.part, jobs.job];
        if (!key || !part || !job || foundBy.has(key)) return;
        const params = { path: { job: job.id, part: part.id } };
        const url = '/api/v1/jobs/{job}/parts/{part}/wall-findings';
        const got = await looking.ask((named) => answer(api.GET(url, { params, ...named })));
        if (got) foundBy.set(key, got);
    }
    watch([() => bench.part?.mesh, query], () => void measure(), { immediate: true });
    watch([() => bench.part?.mesh, query], () => (under.value = null));
    watch(findingsKey, () => void look(), { immediate: true });
    watch(
        [found, pairFindings],
        ([now, pair]) => (bench.wallFindings = [...(now?.findings ?? []), ...pair]),
        {
            immediate: true,
        },
    );
    /** The step after which what a finding tells was so. */
    const since = (key: string) => {
        const number = found.value?.since[key];
        return jobs.job?.steps.find((s) => s.number === number) ?? null;
    };

    return {
        outside,
        ray,
        measuring: reactive(measuring),
        looking: reactive(looking),
        measure,
        look,
        pairFindings,
        under,
        making,
        process,
        asks,
        choose,
        ask,
        least,
        query,
        measurable,
        report,
        found,
        since,
        top,
    };
});
