<script setup lang="ts">
import { useBench } from '../stores/bench';
import { lenses } from '../text';

const bench = useBench();
</script>

<template>
    <div class="lenses" role="radiogroup" aria-label="Lens">
        <button
            v-for="l in lenses"
            :key="l.key"
            type="button"
            role="radio"
            :aria-checked="bench.lens === l.key"
            :title="l.hint"
            :data-testid="`lens-${l.key}`"
            @click="bench.lens = l.key"
        >
            {{ l.name }}
        </button>
    </div>
</template>

<style scoped>
.lenses {
    display: flex;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    overflow: hidden;
    background: rgb(var(--v-theme-surface));
}
button {
    padding: 4px 10px;
    font-size: 13px;
    cursor: pointer;
}
button + button {
    border-left: 1px solid rgb(var(--v-theme-rule));
}
button[aria-checked='true'] {
    color: rgb(var(--v-theme-surface));
    background: rgb(var(--v-theme-on-surface));
}
</style>
