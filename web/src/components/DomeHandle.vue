<script setup lang="ts">
// A handle on the top of a domed cover: dragged, it sets the height.
import * as THREE from 'three';
import { computed, ref, watch } from 'vue';
import { millimetres } from '../format';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import { usePicks } from '../stores/picks';
import type { Bench } from '../viewport/bench';
import type { Xyz } from '../rimRuns';

const props = defineProps<{ view: Bench | null; drawn: number }>();
const bench = useBench();
const forecast = useForecast();
const picks = usePicks();

/** The one rim that is covered domed. */
const rim = computed(() => {
    const a = forecast.draft;
    if (a?.kind !== 'seal.cover_rim' || a.style !== 'domed' || a.as_one) return null;
    const rims = bench.examination?.rims.filter((r) => r.closed) ?? [];
    const chosen =
        a.rims === 'all'
            ? rims
            : rims.filter((r) =>
                  (a.rims as { picked: { near: number[] }[] }).picked.some((p) =>
                      p.near.every((x, i) => x === r.pick.near[i]),
                  ),
              );
    return chosen.length === 1 ? chosen[0]! : null;
});
const top = ref<{ at: THREE.Vector3; height: number; normal: THREE.Vector3 } | null>(null);
watch(
    [rim, () => forecast.ready, () => props.drawn],
    () => {
        if (dragged.value !== null) return;
        const line = picks.rimLines.find((l) => l.name === rim.value?.name);
        if (!line || !forecast.ready || !props.view) {
            top.value = null;
            return;
        }
        const points = line.points.map((p) => new THREE.Vector3(...p));
        const middle = points.reduce((s, p) => s.add(p), new THREE.Vector3()).divideScalar(points.length);
        const normal = points
            .slice(1)
            .reduce(
                (n, p, i) => n.add(points[i]!.clone().sub(middle).cross(p.clone().sub(middle))),
                new THREE.Vector3(),
            )
            .normalize();
        const found = props.view.probe.domeTop(middle, normal);
        top.value = found && { ...found, normal };
    },
    { flush: 'post' },
);
const dragged = ref<number | null>(null);
/** The sense of a positive height: the way the dome comes by itself. */
const sense = computed(() => {
    const a = forecast.draft;
    const turned = a?.kind === 'seal.cover_rim' && (a.height ?? 1) < 0 ? -1 : 1;
    return Math.sign(top.value?.height || 1) * turned;
});
const at = computed(() => {
    void props.drawn;
    const t = top.value;
    if (!t || !props.view) return null;
    const moved = dragged.value === null ? 0 : dragged.value * sense.value - t.height;
    return props.view.onScreen(t.at.clone().addScaledVector(t.normal, moved).toArray() as Xyz);
});

let begin = { x: 0, y: 0, height: 0, way: { x: 0, y: -1 }, pixels: 1 };
function press(event: PointerEvent) {
    const [t, view] = [top.value, props.view];
    if (!t || !view) return;
    (event.target as Element).setPointerCapture(event.pointerId);
    const length = Math.max(Math.abs(t.height), 1e-3);
    const [a, b] = [t.at, t.at.clone().addScaledVector(t.normal, length * sense.value)].map((p) =>
        view.onScreen(p.toArray() as Xyz),
    );
    const way = a && b ? { x: b.x - a.x, y: b.y - a.y } : { x: 0, y: -1 };
    // Seen nearly along the way it moves, the handle would leap; half of what it would be seen from the side is the least.
    const seen = Math.hypot(way.x, way.y);
    if (!seen) [way.x, way.y] = [0, -1];
    const pixels = Math.max(seen, 0.5 * view.pixels(t.at.toArray() as Xyz, length));
    begin = {
        x: event.clientX,
        y: event.clientY,
        height: t.height * sense.value,
        way: { x: way.x / (seen || 1), y: way.y / (seen || 1) },
        pixels: pixels / length,
    };
    dragged.value = begin.height;
}
function drag(event: PointerEvent) {
    if (dragged.value === null) return;
    const along = (event.clientX - begin.x) * begin.way.x + (event.clientY - begin.y) * begin.way.y;
    dragged.value = begin.height + along / begin.pixels;
}
function drop() {
    const height = dragged.value;
    dragged.value = null;
    const a = forecast.draft;
    if (height !== null && a?.kind === 'seal.cover_rim')
        picks.change({ ...a, height: Number(height.toPrecision(3)) });
}
</script>

<template>
    <button
        v-if="at"
        type="button"
        class="handle"
        :style="{ transform: `translate(-50%, -50%) translate(${at.x}px, ${at.y}px)` }"
        aria-label="Height of the dome: drag, or type it in the worksheet"
        title="Drag to set the height of the dome"
        data-testid="dome-handle"
        @pointerdown.stop="press"
        @pointermove="drag"
        @pointerup="drop"
    >
        <span class="figure">{{ millimetres(dragged ?? (top?.height ?? 0) * sense) }}</span>
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
</style>
