<script setup lang="ts">
// Chamfers: the width with what fits.
import type { Action } from '../../../api/client';
import EdgeRuns from '../../fields/EdgeRuns.vue';
import LengthField from '../../fields/LengthField.vue';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';

const { action: a } = defineProps<{ action: Extract<Action, { kind: 'shape.chamfer' }> }>();
const picks = usePicks();
const setWidth = (width: number | null) => width && picks.changeByHand({ ...a, width });
</script>

<template>
    <LengthField label="Width" :value="a.width" testid="width" @change="setWidth" />
    <EdgeRuns :figure="a.width" word="width" @change="setWidth" />
    <StepFields :but="['width']" />
</template>
