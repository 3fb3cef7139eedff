<script setup lang="ts">
// Where the copies of a part are.
import type { Action } from '../../api/client';
import { usePicks } from '../../stores/picks';
import CheckRow from './CheckRow.vue';
import ChoiceRow from './ChoiceRow.vue';
import LengthField from './LengthField.vue';
import PickLine from './PickLine.vue';
import XyzFields from './XyzFields.vue';

type Repeat = Extract<Action, { kind: 'shape.repeat' }>;
type Copies = Repeat['copies'];
const { action: a } = defineProps<{ action: Repeat }>();
const picks = usePicks();
const set = (copies: Copies) => picks.change({ ...a, copies });
const axes = (['x', 'y', 'z'] as const).map((value) => ({ value, title: value }));
const ways = [
    { value: 'row', title: 'In a row' },
    { value: 'ring', title: 'In a ring' },
    { value: 'points', title: 'At points' },
];
function choose(way: string) {
    if (way === 'points') set({ points: { points: [] } });
    else if (way === 'ring') set({ ring: { axis: 'z', through: [0, 0, 0], count: 3 } });
    else set({ row: { step: [10, 0, 0], count: 3 } });
}
</script>

<template>
    <ChoiceRow
        label="Where"
        :items="ways"
        :value="Object.keys(a.copies)[0]!"
        name="copies"
        @change="choose"
    />
    <template v-if="'row' in a.copies">
        <XyzFields
            label="Step"
            :value="a.copies.row.step"
            @change="'row' in a.copies && set({ row: { ...a.copies.row, step: $event } })"
        />
        <LengthField
            label="How many in all"
            suffix=""
            :value="a.copies.row.count"
            testid="count"
            @change="'row' in a.copies && set({ row: { ...a.copies.row, count: Math.round($event!) } })"
        />
    </template>
    <template v-else-if="'ring' in a.copies">
        <ChoiceRow
            label="About"
            :items="axes"
            :value="a.copies.ring.axis"
            name="axis"
            @change="
                'ring' in a.copies &&
                set({ ring: { ...a.copies.ring, axis: $event as typeof a.copies.ring.axis } })
            "
        />
        <XyzFields
            label="Through"
            :value="a.copies.ring.through"
            @change="'ring' in a.copies && set({ ring: { ...a.copies.ring, through: $event } })"
        />
        <LengthField
            label="How many in all"
            suffix=""
            :value="a.copies.ring.count"
            testid="count"
            @change="'ring' in a.copies && set({ ring: { ...a.copies.ring, count: Math.round($event!) } })"
        />
    </template>
    <PickLine v-else />
    <CheckRow label="Unite them" :value="a.join" @change="picks.change({ ...a, join: $event })" />
</template>
