<script setup lang="ts">
// How the part stands to another; the nearest places are ringed, and the Wall lens shows the rest.
import { computed } from 'vue';
import * as f from '../format';
import { useClearance } from '../stores/clearance';
import { useJob } from '../stores/job';
import FindingsList from './FindingsList.vue';
import LengthField from '../tools/fields/LengthField.vue';
import PartsField from '../tools/fields/PartsField.vue';
import WaitLine from './WaitLine.vue';

const jobs = useJob();
const clearance = useClearance();
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
    <PartsField
        v-if="jobs.parts.length > 1"
        label="Clearance to"
        one
        :value="clearance.other ? [clearance.other.id] : []"
        testid="clearance-to"
        @change="clearance.choose($event[0] ?? null)"
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
