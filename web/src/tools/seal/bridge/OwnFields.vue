<script setup lang="ts">
// What a band joins: two rims, or two runs of rims.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import { useBench } from '../../../stores/bench';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';
import RunFields from '../RunFields.vue';

const { action: a } = defineProps<{ action: Extract<Action, { kind: 'seal.bridge' }> }>();
const bench = useBench();
const picks = usePicks();
const rims = computed(() => (bench.examination?.rims ?? []).filter((r) => r.closed));
const rimAt = (near: readonly number[]) =>
    rims.value.find((r) => r.pick.near.every((x, i) => x === near[i]))?.name;
const pickOf = (name: string) => rims.value.find((r) => r.name === name)!.pick;
const sides = [
    { key: 'from', label: 'From' },
    { key: 'to', label: 'To' },
] as const;
const nearOf = (key: 'from' | 'to') => {
    const side = a[key];
    return 'near' in side ? side.near : [];
};
</script>

<template>
    <div v-if="'near' in a.from && 'near' in a.to" class="d-flex ga-2 mt-2">
        <v-select
            v-for="s in sides"
            :key="s.key"
            :label="s.label"
            :items="rims.map((r) => r.name)"
            :model-value="rimAt(nearOf(s.key))"
            :data-testid="`bridge-${s.key}`"
            @update:model-value="picks.changeByHand({ ...a, [s.key]: pickOf($event) })"
        />
    </div>
    <RunFields v-else />
    <StepFields picked :but="['from', 'to']" />
</template>
