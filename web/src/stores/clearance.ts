// How the selected part stands to another: how near, where too near, and where they overlap.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { answer, api, type Schemas } from '../api/client';
import { useAsking } from './asking';
import { useBench } from './bench';
import { useJob } from './job';
import { useWalls } from './walls';

export const useClearance = defineStore('clearance', () => {
    const bench = useBench();
    const jobs = useJob();
    const walls = useWalls();
    const asking = useAsking();
    const chosen = ref<number | null>(null);
    const typed = ref<number | null>(null);
    const report = shallowRef<Schemas['PairReport'] | null>(null);

    /** The other part, while the part is looked at beside it. */
    const other = computed(() =>
        bench.station === 'wall' && chosen.value !== bench.part?.id
            ? (jobs.parts.find((p) => p.id === chosen.value) ?? null)
            : null,
    );
    /** How far they should stand apart, mm; as wide as the process leaves a slot open, where nothing else was asked. */
    const asked = computed(() => typed.value ?? walls.asks?.slot ?? 0);

    async function look() {
        const [job, part, beside] = [jobs.job, bench.part, other.value];
        if (!job || !part || !beside || jobs.asOf) return;
        const params = {
            path: { job: job.id, part: part.id, other: beside.id },
            query: { asked: asked.value },
        };
        const url = '/api/v1/jobs/{job}/parts/{part}/clearance/{other}';
        const got = await asking.ask((named) => answer(api.GET(url, { params, ...named })));
        if (got) report.value = got.pair;
    }
    watch([other, () => bench.part?.mesh, () => other.value?.mesh], () => (report.value = null));
    watch([() => bench.part?.mesh, () => other.value?.mesh, asked], () => void look());
    function choose(id: number | null) {
        chosen.value = id;
        if (id === null) return;
        bench.pin([id]);
        bench.lens = 'wall';
    }
    watch(report, (now) => (walls.pairFindings = now?.findings ?? []));

    return { ...asking, other, asked, typed, report, choose, look };
});
