<script setup lang="ts">
// Makes a change to the drawing; under the pointer or with the focus on it, what it would make is shown first.
import { useBoard, type Change } from '../stores/board';
import { useForesight } from '../stores/foresight';

const { change, testid = undefined } = defineProps<{ change: Change; testid?: string }>();
const board = useBoard();
const foresight = useForesight();
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
        @click="board.change(change)"
        ><slot
    /></v-btn>
</template>
