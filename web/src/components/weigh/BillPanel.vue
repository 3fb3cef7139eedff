<script setup lang="ts">
// All parts of the job: what they weigh and cost, and whether they fit the printer or flask.
import { computed } from 'vue';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import BillTable from './BillTable.vue';
import XyzFields from '../../tools/fields/XyzFields.vue';

const jobs = useJob();
const bench = useBench();
const lines = computed(() => jobs.parts.map((p) => ({ ...p, part: p.name, volume: p.figures.volume })));
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
    <BillTable :lines="lines" :shown="bench.shownParts.map((p) => p.id)" />
    <p v-if="jobs.job" class="mt-2">
        <a :href="`/api/v1/jobs/${jobs.job.id}/bill.csv`" data-testid="bill-csv" download
            >Bill of parts as CSV</a
        >
    </p>
</template>

<style scoped>
a {
    color: rgb(var(--v-theme-primary));
}
</style>
