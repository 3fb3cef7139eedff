<script setup lang="ts">
// What is taken hold of in the viewport: a ring with its figure beside it.
import { computed } from 'vue';
import type { Bench } from '../../viewport/bench';

const props = defineProps<{
    view: Bench | null;
    /** Where it is on the screen. */
    place: { x: number; y: number };
    text: string;
    label: string;
    testid: string;
}>();
defineEmits<{ press: [event: PointerEvent]; drag: [event: PointerEvent]; drop: [] }>();
/** So many pixels a figure beside it takes. */
const FIGURE = 100;
const leftOfIt = computed(() => props.place.x > (props.view?.size().width ?? Infinity) - FIGURE);
</script>

<template>
    <button
        type="button"
        class="handle"
        :style="{ transform: `translate(-50%, -50%) translate(${place.x}px, ${place.y}px)` }"
        :aria-label="`${text}, ${label}: drag, or type it in the worksheet`"
        :title="label"
        :data-testid="testid"
        @pointerdown.stop="$emit('press', $event)"
        @pointermove="$emit('drag', $event)"
        @pointerup="$emit('drop')"
    >
        <span class="figure" :class="{ before: leftOfIt }">{{ text }}</span>
    </button>
</template>

<style scoped>
.handle {
    position: absolute;
    top: 0;
    left: 0;
    width: 18px;
    height: 18px;
    border: 3px solid #a8761f;
    border-radius: 50%;
    background: #fbf9f4;
    cursor: grab;
    touch-action: none;
}
span {
    position: absolute;
    left: 22px;
    top: -4px;
    padding: 0 5px;
    border-radius: 3px;
    white-space: nowrap;
    color: #1f2b33;
    background: #d9a441;
}
span.before {
    left: auto;
    right: 22px;
}
</style>
