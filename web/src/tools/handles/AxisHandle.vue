<script setup lang="ts">
// A handle in the viewport that is dragged along a line.
import * as THREE from 'three';
import { computed, ref } from 'vue';
import type { Bench } from '../../viewport/bench';
import type { Xyz } from '../../rimRuns';

const props = defineProps<{
    view: Bench | null;
    drawn: number;
    at: Xyz;
    /** The direction it moves in. */
    way: Xyz;
    /** What it says when it has been dragged so far, mm. */
    text: (moved: number) => string;
    label: string;
    testid: string;
}>();
const emit = defineEmits<{ moving: [moved: number | null]; moved: [by: number] }>();

const moved = ref<number | null>(null);
const along = (by: number) =>
    new THREE.Vector3(...props.at).addScaledVector(new THREE.Vector3(...props.way).normalize(), by);
const place = computed(() => {
    void props.drawn;
    return props.view?.onScreen(along(moved.value ?? 0).toArray() as Xyz) ?? null;
});

/** So many pixels a figure beside it takes. */
const FIGURE = 100;
const leftOfIt = computed(
    () => !!place.value && place.value.x > (props.view?.size().width ?? Infinity) - FIGURE,
);

let begin = { x: 0, y: 0, way: { x: 0, y: -1 }, pixels: 1 };
function press(event: PointerEvent) {
    const { view } = props;
    if (!view) return;
    (event.target as Element).setPointerCapture(event.pointerId);
    // So far in millimetres as is some way on the screen.
    const length = 50 / Math.max(view.pixels(props.at, 1), 1e-9);
    const [a, b] = [0, length].map((by) => view.onScreen(along(by).toArray() as Xyz));
    const way = a && b ? { x: b.x - a.x, y: b.y - a.y } : { x: 0, y: -1 };
    // Seen nearly along the way it moves, the handle would leap; half of what it would be seen from the side is the least.
    const seen = Math.hypot(way.x, way.y);
    if (!seen) [way.x, way.y] = [0, -1];
    const pixels = Math.max(seen, 0.5 * view.pixels(props.at, length)) / length;
    begin = {
        x: event.clientX,
        y: event.clientY,
        way: { x: way.x / (seen || 1), y: way.y / (seen || 1) },
        pixels,
    };
    moved.value = 0;
}
function drag(event: PointerEvent) {
    if (moved.value === null) return;
    const by = (event.clientX - begin.x) * begin.way.x + (event.clientY - begin.y) * begin.way.y;
    moved.value = by / begin.pixels;
    emit('moving', moved.value);
}
function drop() {
    const by = moved.value;
    moved.value = null;
    emit('moving', null);
    if (by) emit('moved', by);
}
</script>

<template>
    <button
        v-if="place"
        type="button"
        class="handle"
        :style="{ transform: `translate(-50%, -50%) translate(${place.x}px, ${place.y}px)` }"
        :aria-label="`${text(moved ?? 0)}, ${label}: drag, or type it in the worksheet`"
        :title="label"
        :data-testid="testid"
        @pointerdown.stop="press"
        @pointermove="drag"
        @pointerup="drop"
    >
        <span class="figure" :class="{ before: leftOfIt }">{{ text(moved ?? 0) }}</span>
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
