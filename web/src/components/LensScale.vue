<script setup lang="ts">
// What the colours of the lens mean.
import { useBench } from '../stores/bench';
import DeviationScale from './DeviationScale.vue';
import WallScale from './WallScale.vue';

defineProps<{ farthest: number }>();
const bench = useBench();
</script>

<template>
    <DeviationScale v-if="bench.lens === 'deviation'" :farthest="farthest" />
    <WallScale v-else-if="bench.lens === 'wall'" />
</template>
