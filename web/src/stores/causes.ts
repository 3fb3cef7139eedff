// What a considered step makes worse of the walls and corners of its part, for the way the job is made.
import { defineStore } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import { answer, api, type Finding, type Schemas } from '../api/client';
import { kindName } from '../findings';
import { useAsking } from './asking';
import { useBench } from './bench';
import { useForecast } from './forecast';
import { useJob } from './job';
import { useWalls } from './walls';

type Found = Schemas['WallFindingsView'];

export interface Cause {
    kind: Finding['kind'];
    name: string;
    before: number;
    after: number;
    /** The worst of them that the step causes. */
    worst: Finding | null;
}

/** The number of the forecast step in what the server tells. */
const FORECAST = 0;

/** By kind, how many findings there were and would be, where they become more. */
export function causesOf(before: readonly Finding[], then: Found): Cause[] {
    const kinds = [...new Set(then.findings.map((f) => f.kind))];
    return kinds.flatMap((kind) => {
        const [was, would] = [before, then.findings].map((all) => all.filter((f) => f.kind === kind));
        const fresh = would!.find((f) => then.since[f.key] === FORECAST) ?? null;
        const more = would!.length > was!.length;
        if (!more && !fresh) return [];
        const worst = fresh ?? would!.find((f) => !was!.some((w) => w.title === f.title)) ?? would![0]!;
        return [{ kind, name: kindName(kind), before: was!.length, after: would!.length, worst }];
    });
}

export const useCauses = defineStore('causes', () => {
    const bench = useBench();
    const forecast = useForecast();
    const jobs = useJob();
    const walls = useWalls();
    const asking = useAsking();
    const then = shallowRef<{ mesh: string; found: Found } | null>(null);

    watch(
        () => forecast.ready,
        async (ready) => {
            then.value = null;
            const [job, part] = [jobs.job, bench.part];
            if (!ready || ready.asItWas || !job || !part || jobs.asOf) return asking.stop();
            if (ready.report.after.state !== 'sealed' || ready.mesh === part.mesh) return asking.stop();
            const params = { path: { job: job.id, part: part.id }, query: { then: ready.mesh } };
            const url = '/api/v1/jobs/{job}/parts/{part}/wall-findings';
            const found = await asking.ask((named) => answer(api.GET(url, { params, ...named })));
            if (found && ready === forecast.ready) then.value = { mesh: ready.mesh, found };
        },
    );

    const list = computed(() => {
        const now = then.value;
        if (!now || now.mesh !== forecast.ready?.mesh) return [];
        // Of a part that was no solid nothing was known; then only what is there counts.
        const known = bench.part?.figures.state === 'sealed' ? walls.found?.findings : [];
        return known ? causesOf(known, now.found) : [];
    });
    return { list, looking: asking.busy };
});
