<script setup lang="ts">
// What the colours of the lens mean.
import { useBench } from '../stores/bench';
import DeviationScale from './DeviationScale.vue';
import WallScale from './WallScale.vue';

defineProps<{ farthest: number }>();
const bench = useBench();
</script>

<template>
    <DeviationScale v-if="bench.lens === 'deviation'" class="box" :farthest="farthest" />
    <WallScale v-else-if="bench.lens === 'wall'" class="box" />
</template>

<style scoped>
.box {
    display: flex;
    flex-direction: column;
    gap: 2px;
    padding: 6px 10px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    background: rgb(var(--v-theme-surface));
    font-size: 12px;
}
.box :deep(.step) {
    display: flex;
    align-items: center;
    gap: 6px;
}
.box :deep(i) {
    width: 16px;
    height: 10px;
}
</style>
