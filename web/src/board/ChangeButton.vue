<script setup lang="ts">
// Makes a change to the drawing; under the pointer or with the focus on it, what it would make is shown first.
import { nextTick } from 'vue';
import { useBoard, type Change } from '../stores/board';
import { useForecast } from '../stores/forecast';
import { useForesight } from '../stores/foresight';

const { change, testid = undefined } = defineProps<{ change: Change; testid?: string }>();
const board = useBoard();
const foresight = useForesight();
const forecast = useForecast();

/** With the figures as they are written, also those that were written a moment ago. */
async function make() {
    forecast.tellTyped();
    await nextTick();
    await board.change(change);
}
</script>

<template>
    <v-btn
        size="small"
        variant="outlined"
        :data-testid="testid"
        @pointerenter="foresight.foresee(change)"
        @pointerleave="foresight.foresee(null)"
        @focus="foresight.foresee(change)"
        @blur="foresight.foresee(null)"
        @click="make"
        ><slot
    /></v-btn>
</template>
