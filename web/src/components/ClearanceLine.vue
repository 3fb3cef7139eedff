<script setup lang="ts">
// How the part stands to another; the nearest places are ringed, and the Wall lens shows the rest.
import { computed } from 'vue';
import * as f from '../format';
import { useBench } from '../stores/bench';
import { useClearance } from '../stores/clearance';
import { useJob } from '../stores/job';
import FindingsList from './FindingsList.vue';
import LengthField from '../tools/fields/LengthField.vue';
import WaitLine from './WaitLine.vue';

const bench = useBench();
const jobs = useJob();
const clearance = useClearance();
const others = computed(() =>
    jobs.parts.filter((p) => p.id !== bench.part?.id).map((p) => ({ title: p.name, value: p.id })),
);
const told = computed(() => {
    const got = clearance.report;
    if (!got) return '';
    if (got.least == null) return 'None: one of them is empty';
    if (got.shared) return `They overlap: ${f.volume(got.shared)} in common`;
    if (got.least > 0) return `They clear each other by ${f.millimetres(got.least)}`;
    return got.shared == null ? 'They touch or cross' : 'They touch';
});
</script>

<template>
    <v-select
        v-if="others.length"
        class="mt-2"
        label="Clearance to"
        clearable
        :items="others"
        :model-value="clearance.other?.id ?? null"
        data-testid="clearance-to"
        @update:model-value="clearance.choose($event)"
    />
    <template v-if="clearance.other">
        <LengthField
            class="mt-2"
            label="Should stand apart by"
            :value="clearance.asked"
            testid="clearance-asked"
            @change="clearance.typed = $event"
        />
        <WaitLine
            v-if="!clearance.report && (clearance.busy || clearance.stopped)"
            :what="`Looking how it stands to ${clearance.other.name}`"
            :far="clearance.far"
            :stopped="clearance.stopped"
            @stop="clearance.stop"
            @again="clearance.look"
        />
        <p v-else-if="told" role="status" data-testid="clearance">{{ told }}</p>
        <div v-if="clearance.report" data-testid="pair-findings">
            <FindingsList :findings="clearance.report.findings">
                <template #none>Nowhere nearer than {{ f.millimetres(clearance.asked) }}.</template>
            </FindingsList>
        </div>
    </template>
</template>
