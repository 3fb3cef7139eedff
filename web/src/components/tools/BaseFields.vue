<script setup lang="ts">
// Where the floor of a sheet is, and which way is up.
import type { Action } from '../../api/client';
import { usePicks } from '../../stores/picks';
import ChoiceRow from './ChoiceRow.vue';
import LengthField from './LengthField.vue';

type Base = Extract<Action, { kind: 'shape.base' }>;
const { action: a } = defineProps<{ action: Base }>();
const picks = usePicks();
const change = (base: Base) => picks.change(base);
const ways = [
    { value: 'own', title: 'Square to it' },
    { value: 'z', title: 'Z' },
    { value: 'y', title: 'Y' },
    { value: 'x', title: 'X' },
];
const axes: Record<string, [number, number, number]> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };
const way = () => Object.keys(axes).find((k) => String(axes[k]) === String(a.up)) ?? 'own';
</script>

<template>
    <LengthField
        v-if="'below' in a.floor"
        label="Floor below the lowest point"
        :value="a.floor.below"
        testid="below"
        @change="change({ ...a, floor: { below: $event! } })"
    />
    <ChoiceRow
        label="Up"
        :items="ways"
        :value="way()"
        name="up"
        @change="change({ ...a, up: axes[$event] ?? null })"
    />
</template>
