<script setup lang="ts">
// The distance within which corners are joined, with how far they lie apart.
import type { Action } from '../../../api/client';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';
import CornerDistances from './CornerDistances.vue';

const { action } = defineProps<{ action: Extract<Action, { kind: 'seal.merge_points' }> }>();
const picks = usePicks();
</script>

<template>
    <StepFields />
    <CornerDistances :within="action.within" @within="picks.changeByHand({ ...action, within: $event })" />
</template>
