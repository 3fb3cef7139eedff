<script setup lang="ts">
// Lines at a distance from the chosen ones: to one side or both, and how they end.
import { computed, ref } from 'vue';
import type { Schemas } from '../api/client';
import { useBoard } from '../stores/board';
import CheckRow from '../tools/fields/CheckRow.vue';
import ChoiceRow from '../tools/fields/ChoiceRow.vue';
import LengthField from '../tools/fields/LengthField.vue';
import ChangeButton from './ChangeButton.vue';

const board = useBoard();
const left = ref(2);
const right = ref(0);
const ends = ref<Schemas['Ends']>('open');
const sharp = ref(false);
const of = computed(() => [...board.chosen]);
const items = [
    { value: 'open', title: 'Open ends' },
    { value: 'square', title: 'Square' },
    { value: 'round', title: 'Round' },
];
const change = computed(() => ({
    band: { lines: of.value, left: left.value, right: right.value, ends: ends.value, sharp: sharp.value },
}));
</script>

<template>
    <p v-if="!of.length" class="soft">Choose the lines it goes along.</p>
    <template v-else>
        <div class="pair">
            <LengthField
                label="Left or within"
                signed
                :limits="{ minimum: 0 }"
                :value="left"
                testid="band-left"
                @change="left = $event!"
            />
            <LengthField
                label="Right or outside"
                signed
                :limits="{ minimum: 0 }"
                :value="right"
                testid="band-right"
                @change="right = $event!"
            />
        </div>
        <ChoiceRow
            label="Its ends"
            :items="items"
            :value="ends"
            name="band-ends"
            @change="ends = $event as Schemas['Ends']"
        />
        <CheckRow label="Corners to a point" :value="sharp" @change="sharp = $event" />
        <ChangeButton testid="band-draw" :change="change">Draw beside</ChangeButton>
    </template>
</template>

<style scoped>
.pair {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 8px;
}
</style>
