<script setup lang="ts">
// How a part is moved, turned and scaled.
import type { Action } from '../../api/client';
import { usePicks } from '../../stores/picks';
import ChoiceRow from './ChoiceRow.vue';
import LengthField from './LengthField.vue';
import XyzFields from './XyzFields.vue';

const { action: a } = defineProps<{ action: Extract<Action, { kind: 'shape.place' }> }>();
const picks = usePicks();
const axes = (['x', 'y', 'z'] as const).map((value) => ({ value, title: value }));
</script>

<template>
    <XyzFields
        label="Move"
        :value="a.by ?? [0, 0, 0]"
        testid="move"
        @change="picks.change({ ...a, by: $event })"
    />
    <LengthField
        label="Turn"
        suffix="°"
        signed
        :value="a.turn?.degrees ?? 0"
        testid="turn"
        @change="picks.change({ ...a, turn: $event ? { axis: a.turn?.axis ?? 'z', degrees: $event } : null })"
    />
    <ChoiceRow
        v-if="a.turn"
        label="About"
        :items="axes"
        :value="a.turn.axis"
        name="axis"
        @change="picks.change({ ...a, turn: { ...a.turn, axis: $event as 'x' | 'y' | 'z' } })"
    />
    <LengthField
        label="Scale"
        suffix="×"
        :value="a.scale ?? 1"
        testid="scale"
        @change="picks.change({ ...a, scale: $event === 1 ? null : $event })"
    />
    <v-checkbox
        :model-value="a.to_bench ?? false"
        label="Set on the bench"
        density="compact"
        hide-details
        @update:model-value="picks.change({ ...a, to_bench: !!$event })"
    />
</template>
