<script setup lang="ts">
// All parts of the job: what they weigh and cost, and whether they fit the printer or flask.
import { computed } from 'vue';
import * as f from '../../format';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import XyzFields from '../tools/XyzFields.vue';

const jobs = useJob();
const bench = useBench();
const parts = computed(() => jobs.parts);
const sum = (of: 'mass' | 'cost') => parts.value.reduce((all, p) => all + (p[of] ?? 0), 0);
const counted = computed(() => parts.value.filter((p) => p.mass != null).length);
const shown = computed(() => bench.shownParts.filter((p) => p.mass != null));
</script>

<template>
    <p class="soft">The printer's bench or the flask:</p>
    <XyzFields
        label="Bench"
        above
        :value="jobs.job?.setup.bench ?? [200, 200, 200]"
        testid="bench"
        @change="jobs.setUp({ bench: $event })"
    />
    <table data-testid="bill">
        <thead>
            <tr>
                <th>Part</th>
                <th>Mass</th>
                <th>Cost</th>
                <th>Fits</th>
            </tr>
        </thead>
        <tbody>
            <tr v-for="p in parts" :key="p.id">
                <td>{{ p.name }}</td>
                <td class="figure">
                    {{
                        p.mass == null
                            ? p.figures.volume == null
                                ? 'no volume'
                                : 'no material'
                            : f.mass(p.mass)
                    }}
                </td>
                <td class="figure">{{ p.cost == null ? '–' : f.figure(p.cost) }}</td>
                <td>{{ p.fits == null ? '–' : p.fits ? 'yes' : 'no' }}</td>
            </tr>
        </tbody>
        <tfoot>
            <tr v-if="shown.length > 1">
                <td>{{ shown.length }} shown</td>
                <td class="figure">{{ f.mass(shown.reduce((all, p) => all + p.mass!, 0)) }}</td>
                <td />
                <td />
            </tr>
            <tr>
                <td>{{ counted }} of {{ parts.length }}</td>
                <td class="figure" data-testid="bill-mass">{{ f.mass(sum('mass')) }}</td>
                <td class="figure">{{ f.figure(sum('cost')) }}</td>
                <td />
            </tr>
        </tfoot>
    </table>
    <p v-if="jobs.job" class="mt-2">
        <a :href="`/api/v1/jobs/${jobs.job.id}/bill.csv`" data-testid="bill-csv" download
            >Bill of parts as CSV</a
        >
    </p>
</template>

<style scoped>
table {
    width: 100%;
    margin-top: 10px;
    border-collapse: collapse;
    font-size: 13px;
}
th {
    text-align: left;
    font-weight: 500;
    opacity: 0.8;
}
th,
td {
    padding: 3px 4px;
    border-bottom: 1px solid rgb(var(--v-theme-rule));
}
tfoot td {
    font-weight: 600;
}
a {
    color: rgb(var(--v-theme-primary));
}
</style>
