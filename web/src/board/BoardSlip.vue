<script setup lang="ts">
// The slip beside the pointer: the figures of what is being drawn, the one that is typed underlined, and what was caught.
import { computed } from 'vue';
import { usePen } from '../stores/pen';

defineProps<{ x: number; y: number }>();
const pen = usePen();
const hand = computed(() => pen.hand);
const shown = (value: number) => Number(value.toFixed(value < 1 ? 4 : 3));
const figures = computed(() =>
    (hand.value?.figures ?? []).map((f, n) => ({
        ...f,
        now: n === pen.figure,
        text: n === pen.figure && pen.writing ? pen.writing : `${shown(f.value)}`,
    })),
);
const coordinates = computed(() => hand.value?.at.map((v) => shown(v)).join(', '));
</script>

<template>
    <div class="slip" role="status" data-testid="slip" :style="{ left: `${x + 18}px`, top: `${y + 18}px` }">
        <p v-if="!figures.length" class="figure">{{ coordinates }} mm</p>
        <p
            v-for="f in figures"
            :key="f.name"
            :class="{ now: f.now, typed: f.typed }"
            :data-testid="`slip-${f.name}`"
        >
            <span>{{ f.name }}</span>
            <span class="figure">{{ f.text }}{{ f.unit === '°' ? '°' : f.unit ? ` ${f.unit}` : '' }}</span>
        </p>
        <p v-if="hand?.caught" class="caught" data-testid="caught">{{ hand.caught }}</p>
        <p v-if="hand?.wrong" class="wrong">{{ hand.wrong }}</p>
    </div>
</template>

<style scoped>
.slip {
    position: absolute;
    z-index: 2;
    max-width: 240px;
    padding: 4px 8px;
    font-size: 12px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 3px;
    background: rgb(var(--v-theme-surface));
    pointer-events: none;
}
.slip p {
    display: flex;
    justify-content: space-between;
    gap: 10px;
}
.typed .figure {
    font-weight: 600;
}
.now .figure {
    border-bottom: 2px solid #b9821a;
}
.caught {
    color: #8a5f10;
    font-weight: 600;
}
.v-theme--night .caught {
    color: #e0b45a;
}
.wrong {
    color: rgb(var(--v-theme-error));
}
</style>
