<script setup lang="ts">
// Roundings: the radius with what fits, and one of its own for each run.
import type { Action, Schemas } from '../../../api/client';
import EdgeRuns from '../../fields/EdgeRuns.vue';
import LengthField from '../../fields/LengthField.vue';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';
import type { Xyz } from '../../../rimRuns';
import { withOwn } from './own';

const { action: a } = defineProps<{ action: Extract<Action, { kind: 'shape.round' }> }>();
const picks = usePicks();
const setRadius = (radius: number | null) => radius && picks.changeByHand({ ...a, radius });
const setOwn = (run: Schemas['EdgeRun'], radius: number | null) =>
    picks.changeByHand({ ...a, also: withOwn(a.also ?? [], run.at as Xyz, radius) });
</script>

<template>
    <StepFields :but="['radius', 'far', 'leave', 'chord']" />
    <template v-if="!a.whole">
        <LengthField label="Radius" :value="a.radius" testid="radius" @change="setRadius" />
        <EdgeRuns :figure="a.radius" word="radius" own @change="setRadius" @alone="setOwn" />
    </template>
    <StepFields :but="['on', 'whole', 'radius']" picked />
</template>
