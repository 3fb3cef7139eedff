<script setup lang="ts">
import type { Direction } from '../viewport/views';

const emit = defineEmits<{ look: [direction: Direction] }>();
const petals: { to: Direction; name: string; at: string }[] = [
    { to: 'top', name: 'Top', at: '1 / 2' },
    { to: 'back', name: 'Back', at: '1 / 3' },
    { to: 'left', name: 'Left', at: '2 / 1' },
    { to: 'home', name: 'Home', at: '2 / 2' },
    { to: 'right', name: 'Right', at: '2 / 3' },
    { to: 'front', name: 'Front', at: '3 / 1' },
    { to: 'bottom', name: 'Below', at: '3 / 2' },
];
</script>

<template>
    <div class="rosette" role="group" aria-label="View from">
        <button
            v-for="p in petals"
            :key="p.to"
            type="button"
            :class="{ home: p.to === 'home' }"
            :style="{ gridArea: p.at }"
            :title="p.to === 'home' ? 'Home view' : `View from ${p.name.toLowerCase()}`"
            :data-testid="`view-${p.to}`"
            @click="emit('look', p.to)"
        >
            {{ p.name }}
        </button>
    </div>
</template>

<style scoped>
.rosette {
    display: grid;
    grid-template: repeat(3, 26px) / repeat(3, 46px);
    gap: 2px;
}
button {
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 13px;
    background: rgb(var(--v-theme-surface));
    font-size: 12px;
    cursor: pointer;
}
.home {
    border-color: rgb(var(--v-theme-primary));
    font-weight: 600;
}
button:hover {
    border-color: currentColor;
}
</style>
