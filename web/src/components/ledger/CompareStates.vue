<script setup lang="ts">
// Two states of a part, side by side: figures, and how far the surface lies apart.
import { computed, onUnmounted, ref, watch } from 'vue';
import { answer, api } from '../../api/client';
import { forecastRows, millimetres } from '../../format';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { useSteps } from '../../stores/steps';

const jobs = useJob();
const bench = useBench();
const steps = useSteps();
/** Only states of one part are compared. */
const states = computed(() => {
    const part = jobs.job?.steps.find((s) => s.number === steps.compared?.first)?.part;
    return (jobs.job?.steps ?? [])
        .filter((s, i) => s.part === part && s.state.is === 'done' && !steps.isHeld(i))
        .map((s) => ({ title: `After step ${s.number}: ${s.name ?? s.title}`, value: s.number, step: s }));
});
const of = (number?: number) => states.value.find((s) => s.value === number)?.step;
const pair = computed(() => [of(steps.compared?.first), of(steps.compared?.second)] as const);
const rows = computed(() => {
    const [first, second] = pair.value;
    return first && second ? forecastRows(first.report.after, second.report.after, 0, null) : [];
});
const apart = ref('');
watch(
    pair,
    async ([first, second]) => {
        apart.value = '';
        if (!first || !second) return;
        await jobs.look(second.number, true, { from: first.mesh });
        bench.selectPart(second.part);
        bench.lens = 'deviation';
        if (first.mesh === second.mesh) {
            apart.value = 'the surfaces are the same';
            return;
        }
        const params = { path: { mesh: second.mesh, from: first.mesh } };
        const d = await answer(api.GET('/api/v1/meshes/{mesh}/deviation/{from}', { params })).catch(
            () => null,
        );
        if (d && of(steps.compared?.second)?.mesh === second.mesh)
            apart.value = `the surfaces lie at most ${millimetres(d.largest)} apart (mean ${millimetres(d.mean)})`;
    },
    { immediate: true },
);
onUnmounted(() => {
    if (jobs.asOf?.from) jobs.asOf = null;
    bench.lens = bench.station === 'seal' ? 'rims' : 'plain';
});
</script>

<template>
    <section v-if="steps.compared" class="compare" data-testid="compare" aria-label="Two states compared">
        <v-select
            v-model="steps.compared.first"
            label="First"
            density="compact"
            :items="states"
            data-testid="compare-first"
        />
        <v-select
            v-model="steps.compared.second"
            label="Second, shown"
            density="compact"
            :items="states"
            data-testid="compare-second"
        />
        <table>
            <thead>
                <tr class="small-caps">
                    <th scope="col"></th>
                    <th scope="col">First</th>
                    <th scope="col">Second</th>
                </tr>
            </thead>
            <tbody>
                <tr v-for="r in rows" :key="r.label" :class="r.change">
                    <th scope="row">{{ r.label }}</th>
                    <td class="figure">{{ r.before }}</td>
                    <td class="figure">{{ r.after }}</td>
                </tr>
            </tbody>
        </table>
        <p class="soft" data-testid="apart">{{ apart }}</p>
        <v-btn size="small" variant="outlined" data-testid="compare-end" @click="steps.compared = null"
            >Back to the ledger</v-btn
        >
    </section>
</template>

<style scoped>
.compare {
    display: grid;
    gap: 8px;
    margin-bottom: 10px;
    padding: 10px 12px;
    border: 1px solid rgb(var(--v-theme-primary));
    border-radius: 4px;
}
table {
    width: 100%;
    border-collapse: collapse;
}
th {
    font-weight: 400;
    text-align: left;
}
th[scope='col'],
td {
    text-align: right;
}
td {
    padding: 2px 0 2px 10px;
    white-space: nowrap;
}
tbody tr {
    border-top: 1px solid rgb(var(--v-theme-rule));
}
.better td:last-child {
    color: rgb(var(--v-theme-success));
}
.worse td:last-child {
    color: rgb(var(--v-theme-error));
}
</style>
