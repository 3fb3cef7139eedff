<script setup lang="ts">
// The reach within which edges are joined, with the gaps there are.
import type { Action } from '../../../api/client';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';
import GapWidths from './GapWidths.vue';

const { action } = defineProps<{ action: Extract<Action, { kind: 'seal.close_gaps' }> }>();
const picks = usePicks();
</script>

<template>
    <StepFields :but="['leave']" />
    <GapWidths
        :reach="action.reach"
        :leave="action.leave ?? []"
        @reach="picks.changeByHand({ ...action, reach: $event })"
        @leave="picks.changeByHand({ ...action, leave: $event })"
    />
</template>
