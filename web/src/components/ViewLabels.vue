<script setup lang="ts">
// The names of rims, gaps and tangles over the drawing.
import type { Label } from '../viewport/labels';

defineProps<{ labels: readonly Label[]; chosen: readonly string[] }>();
</script>

<template>
    <span
        v-for="l in labels"
        :key="l.key"
        class="label figure"
        :class="{ chosen: chosen.includes(l.text), spot: l.spot }"
        :style="{ transform: `translate(-50%, -50%) translate(${l.x}px, ${l.y}px)` }"
        aria-hidden="true"
        >{{ l.text }}</span
    >
</template>

<style scoped>
.label {
    position: absolute;
    top: 0;
    left: 0;
    padding: 0 5px;
    border-radius: 3px;
    color: #1f2b33;
    background: #f2a900;
    pointer-events: none;
}
.label.spot {
    border: 1px solid #8c2f1b;
    color: #8c2f1b;
    background: #fbf9f4;
}
.label.chosen {
    outline: 2px solid #a8761f;
}
</style>
