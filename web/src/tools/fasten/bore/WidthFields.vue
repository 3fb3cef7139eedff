<script setup lang="ts">
// How wide a bore is: a diameter, or room for a screw.
import { computed } from 'vue';
import type { Schemas } from '../../../api/client';
import { useFasten } from '../../../stores/fasten';
import ChoiceRow from '../../fields/ChoiceRow.vue';
import LengthField from '../../fields/LengthField.vue';

type Width = Schemas['Width'];
const props = defineProps<{ width: Width }>();
const emit = defineEmits<{ change: [width: Width] }>();
const fasten = useFasten();
const screw = computed(() => (typeof props.width === 'object' ? props.width : null));
const ways = [
    { value: 'diameter', title: 'A diameter' },
    { value: 'screw', title: 'Room for a screw' },
];
const classes = ['fine', 'medium', 'coarse'] as const;
const fitting = computed(() => fasten.tables?.fittings.find((f) => `M${f.screw}` === screw.value?.screw));
const rooms = computed(() =>
    classes.map((c, i) => ({ value: c, title: `${c}: ${fitting.value?.clearance[i] ?? '?'} mm` })),
);
</script>

<template>
    <ChoiceRow
        label="Width by"
        :items="ways"
        :value="screw ? 'screw' : 'diameter'"
        name="width"
        @change="emit('change', $event === 'screw' ? { screw: 'M4', class: 'medium' } : 5)"
    />
    <div v-if="screw" class="d-flex ga-2 mt-2">
        <v-select
            label="Screw"
            :items="(fasten.tables?.fittings ?? []).map((f) => `M${f.screw}`)"
            :model-value="screw.screw"
            data-testid="screw"
            @update:model-value="emit('change', { ...screw, screw: $event })"
        />
        <v-select
            label="Room"
            :items="rooms"
            :model-value="screw.class ?? 'medium'"
            data-testid="room"
            @update:model-value="emit('change', { ...screw, class: $event })"
        />
    </div>
    <LengthField
        v-else
        label="Diameter"
        :value="typeof width === 'number' ? width : null"
        testid="diameter"
        @change="emit('change', $event!)"
    />
</template>
