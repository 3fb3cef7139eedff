<script setup lang="ts">
// What the considered step will take, where that is worth knowing before it is done.
import { ref, watch } from 'vue';
import { answer, api, type Action, type Schemas } from '../../api/client';
import { whole } from '../../format';
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import { useJob } from '../../stores/job';

/** Less than this is not told. */
const [SECONDS, BYTES] = [4, 1e9];
const forecast = useForecast();
const bench = useBench();
const jobs = useJob();
const cost = ref<Schemas['Cost'] | null>(null);
async function look(action: Action | null) {
    const [job, part] = [jobs.job?.id, bench.partNumber];
    if (!action || !job) return (cost.value = null);
    const options = { params: { path: { job } }, body: { part, action } };
    const got = await answer(api.POST('/api/v1/jobs/{job}/costs', options)).catch(() => null);
    if (action === forecast.draft) cost.value = got?.cost ?? null;
}
watch([() => forecast.draft, () => bench.part?.mesh], ([action]) => void look(action), { immediate: true });
const bytes = (b: number) => (b > 1e9 ? `${(b / 1e9).toFixed(1)} GB` : `${Math.ceil(b / 1e6)} MB`);
const seconds = (s: number) =>
    s < 1 ? 'under a second' : `about ${Number(s.toPrecision(s < 10 ? 1 : 2))} s`;
const rounded = (n: number) => Number(n.toPrecision(2));
</script>

<template>
    <p
        v-if="cost && !forecast.ready && (cost.seconds >= SECONDS || cost.bytes >= BYTES)"
        class="soft mt-1"
        data-testid="cost"
    >
        About {{ whole(rounded(cost.triangles)) }} triangles, {{ bytes(cost.bytes) }} of memory,
        {{ seconds(cost.seconds) }}
    </p>
</template>
