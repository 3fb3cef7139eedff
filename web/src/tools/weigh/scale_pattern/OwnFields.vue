<script setup lang="ts">
// What a casting shrinks by, alike along all axes or not.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import LengthField from '../../fields/LengthField.vue';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';

const { action: a } = defineProps<{ action: Extract<Action, { kind: 'weigh.scale_pattern' }> }>();
const picks = usePicks();
const even = computed(() => a.shrinkage.every((s) => s === a.shrinkage[0]));
</script>

<template>
    <LengthField
        v-if="even"
        label="Shrinkage of length"
        suffix="%"
        hint="Of what is cast, against its pattern"
        :value="a.shrinkage[0]"
        testid="shrinkage-even"
        @change="picks.change({ ...a, shrinkage: [$event!, $event!, $event!] })"
    />
    <StepFields />
</template>
