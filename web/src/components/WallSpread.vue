<script setup lang="ts">
// How the walls are spread over the surface: area by thickness, what is too thin hatched.
import { computed } from 'vue';
import * as f from '../format';
import { useWalls } from '../stores/walls';

const WIDTH = 300;
const HEIGHT = 64;
const walls = useWalls();
const bars = computed(() => walls.report?.spread ?? []);
const most = computed(() => Math.max(...bars.value.map((b) => b.area), 1e-9));
const end = computed(() => bars.value[bars.value.length - 1]?.to ?? 1);
const across = (x: number) => (x / end.value) * WIDTH;
const thin = (to: number) => to <= (walls.least ?? 0) + 1e-9;
</script>

<template>
    <svg
        v-if="bars.length"
        :viewBox="`0 0 ${WIDTH} ${HEIGHT + 16}`"
        role="img"
        :aria-label="`Walls from ${f.millimetres(0)} to ${f.millimetres(end)} by area`"
        data-testid="wall-spread"
    >
        <defs>
            <pattern
                id="thin-hatch"
                width="5"
                height="5"
                patternUnits="userSpaceOnUse"
                patternTransform="rotate(45)"
            >
                <rect width="5" height="5" class="under" />
                <line x1="0" y1="0" x2="0" y2="5" class="hatch" />
            </pattern>
        </defs>
        <rect
            v-for="b in bars"
            :key="b.from"
            :x="across(b.from) + 0.5"
            :width="Math.max(across(b.to - b.from) - 1, 0.5)"
            :y="HEIGHT - (b.area / most) * HEIGHT"
            :height="(b.area / most) * HEIGHT"
            :fill="thin(b.to) ? 'url(#thin-hatch)' : undefined"
            class="bar"
        >
            <title>{{ f.millimetres(b.from) }} to {{ f.millimetres(b.to) }}: {{ f.area(b.area) }}</title>
        </rect>
        <line
            v-if="walls.least && walls.least < end"
            :x1="across(walls.least)"
            :x2="across(walls.least)"
            y1="0"
            :y2="HEIGHT"
            class="least"
        />
        <text x="0" :y="HEIGHT + 13">0</text>
        <text :x="WIDTH" :y="HEIGHT + 13" text-anchor="end">{{ f.millimetres(end) }}</text>
    </svg>
</template>

<style scoped>
svg {
    width: 100%;
    margin: 6px 0;
}
.bar:not([fill]) {
    fill: rgb(var(--v-theme-on-surface));
    opacity: 0.55;
}
.under {
    fill: #8c2a2e;
}
.hatch {
    stroke: #e8d9a0;
    stroke-width: 2;
}
.least {
    stroke: rgb(var(--v-theme-error));
    stroke-width: 1.5;
}
text {
    font-size: 11px;
    fill: rgb(var(--v-theme-on-surface));
}
</style>
