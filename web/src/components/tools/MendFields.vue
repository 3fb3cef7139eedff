<script setup lang="ts">
// The distances within which corners and edges are joined, and what becomes of sheets that enclose nothing.
import type { Action } from '../../api/client';
import CornerDistances from '../CornerDistances.vue';
import GapWidths from '../GapWidths.vue';
import LengthField from './LengthField.vue';

type Mend = Extract<Action, { kind: 'seal.merge_points' | 'seal.find_inside' | 'seal.close_gaps' }>;
const { action: a } = defineProps<{ action: Mend }>();
const emit = defineEmits<{ change: [action: Action] }>();
</script>

<template>
    <template v-if="a.kind === 'seal.merge_points'">
        <LengthField
            label="Within"
            :value="a.within"
            hint="Corners no farther apart become one; none moves more than half of it"
            testid="within"
            @change="emit('change', { ...a, within: $event! })"
        />
        <CornerDistances :within="a.within" @within="emit('change', { ...a, within: $event })" />
    </template>
    <LengthField
        v-else-if="a.kind === 'seal.find_inside'"
        label="Sheet wall"
        empty="they vanish"
        :value="a.wall"
        testid="sheet-wall"
        @change="emit('change', { ...a, wall: $event })"
    />
    <template v-else-if="a.kind === 'seal.close_gaps'">
        <LengthField
            label="Reach"
            :value="a.reach"
            hint="The largest distance over which edges are joined"
            testid="reach"
            @change="emit('change', { ...a, reach: $event! })"
        />
        <GapWidths
            :reach="a.reach"
            :leave="a.leave ?? []"
            @reach="emit('change', { ...a, reach: $event })"
            @leave="emit('change', { ...a, leave: $event })"
        />
    </template>
</template>
