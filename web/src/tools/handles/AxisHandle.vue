<script setup lang="ts">
// A handle in the viewport that is dragged along a line.
import * as THREE from 'three';
import { computed, ref } from 'vue';
import type { Bench } from '../../viewport/bench';
import type { Xyz } from '../../rimRuns';
import HandleDot from './HandleDot.vue';

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
    <HandleDot
        v-if="place"
        :view="view"
        :place="place"
        :text="text(moved ?? 0)"
        :label="label"
        :testid="testid"
        @press="press"
        @drag="drag"
        @drop="drop"
    />
</template>
