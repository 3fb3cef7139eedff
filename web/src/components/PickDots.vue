<script setup lang="ts">
// Where picks lie on the screen, and how large the brush is.
import { usePicks } from '../tools/picking/picks';
import type { Dot } from '../tools/picking/usePicking';

defineProps<{ dots: readonly Dot[]; ring: { x: number; y: number; radius: number } | null }>();
const picks = usePicks();
</script>

<template>
    <span
        v-for="d in dots"
        :key="d.key"
        class="dot figure"
        :class="{
            aim: d.key === 'aim',
            run: d.key.startsWith('run'),
            lit: d.key === `chamber ${picks.aimedChamber}`,
        }"
        :style="{ transform: `translate(-50%, -50%) translate(${d.x}px, ${d.y}px)` }"
        aria-hidden="true"
        >{{ d.text }}</span
    >
    <span
        v-if="ring"
        class="brush"
        :style="{
            width: `${ring.radius * 2}px`,
            height: `${ring.radius * 2}px`,
            transform: `translate(-50%, -50%) translate(${ring.x}px, ${ring.y}px)`,
        }"
        aria-hidden="true"
    />
</template>

<style scoped>
.dot {
    position: absolute;
    top: 0;
    left: 0;
    min-width: 20px;
    padding: 0 5px;
    border: 2px solid #a8761f;
    border-radius: 10px;
    text-align: center;
    color: #1f2b33;
    background: #fbf9f4;
    pointer-events: none;
    white-space: nowrap;
}
.dot.aim {
    margin: -20px 0 0 0;
    border-style: dashed;
    opacity: 0.92;
}
.dot.lit {
    background: #d9a441;
}
.dot.run {
    border-color: transparent;
    background: #d9a441;
}
.brush {
    position: absolute;
    top: 0;
    left: 0;
    border: 2px solid #a8761f;
    border-radius: 50%;
    background: rgb(217 164 65 / 18%);
    pointer-events: none;
}
</style>
