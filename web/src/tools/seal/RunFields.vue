<script setup lang="ts">
// Split points of a rim, and the runs between them.
import { usePicks } from '../picking/picks';
import ChoiceRow from '../fields/ChoiceRow.vue';
import PickLine from '../fields/PickLine.vue';

const picks = usePicks();
const stages = [
    { value: 'points', title: 'Split points' },
    { value: 'runs', title: 'Runs' },
];
const isChosen = (name: string) => picks.chosenRuns.some((r) => r.name === name);
</script>

<template>
    <ChoiceRow
        label="What a click on a rim picks"
        :items="stages"
        :value="picks.stage"
        name="stage"
        @change="picks.stage = $event as 'points' | 'runs'"
    />
    <PickLine />
    <div v-if="picks.runs.length" class="runs" role="group" aria-label="Runs">
        <button
            v-for="r in picks.runs"
            :key="r.name"
            type="button"
            class="run figure"
            :aria-pressed="isChosen(r.name)"
            :data-testid="`run-${r.name}`"
            @click="picks.toggleRun(r)"
        >
            {{ r.name }}
        </button>
    </div>
</template>

<style scoped>
.runs {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin-top: 8px;
}
.run {
    padding: 2px 9px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    cursor: pointer;
}
.run[aria-pressed='true'] {
    color: #1f2b33;
    background: #d9a441;
}
</style>
