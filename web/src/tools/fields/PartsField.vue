<script setup lang="ts">
// Other parts that go into a step.
import { computed } from 'vue';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';

defineProps<{ label: string; value: readonly number[]; one?: boolean; testid?: string }>();
const emit = defineEmits<{ change: [ids: number[]] }>();
const bench = useBench();
const jobs = useJob();
const items = computed(() =>
    jobs.parts.filter((p) => p.id !== bench.part?.id).map((p) => ({ title: p.name, value: p.id })),
);
</script>

<template>
    <v-select
        class="mt-2"
        :label="label"
        :multiple="!one"
        :chips="!one"
        :clearable="one"
        :items="items"
        :model-value="one ? (value[0] ?? null) : value"
        :data-testid="testid ?? 'with'"
        @update:model-value="emit('change', ([] as number[]).concat($event ?? []))"
    />
</template>
