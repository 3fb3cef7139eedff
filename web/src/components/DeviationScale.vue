<script setup lang="ts">
import { computed } from 'vue';
import { millimetres } from '../format';
import { useJob } from '../stores/job';
import { deviationSteps } from '../viewport/materials';

defineProps<{ farthest: number }>();
const jobs = useJob();
const steps = deviationSteps.slice(1);
/** What the part is measured against. */
const base = computed(() => (jobs.asOf?.from ? 'in the first state' : 'it came in'));
</script>

<template>
    <div
        role="img"
        data-testid="deviation-scale"
        :aria-label="`Deviation scale from 0 to ${millimetres(farthest)}`"
    >
        <span class="small-caps">{{ jobs.asOf?.from ? 'Off the first state' : 'Off what came in' }}</span>
        <template v-if="farthest > 0">
            <span class="step"><i :style="{ background: deviationSteps[0] }" />as {{ base }}</span>
            <span v-for="(c, i) in steps" :key="c" class="step figure">
                <i :style="{ background: c }" />to {{ millimetres((farthest * (i + 1)) / steps.length) }}
            </span>
        </template>
        <span v-else class="step"><i :style="{ background: deviationSteps[0] }" />all as {{ base }}</span>
    </div>
</template>
