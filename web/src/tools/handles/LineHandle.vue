<script setup lang="ts">
// A handle in the viewport that is dragged along a line of points.
import { computed, ref } from 'vue';
import type { Bench } from '../../viewport/bench';
import type { Xyz } from '../../rimRuns';
import HandleDot from './HandleDot.vue';

const props = defineProps<{
    view: Bench | null;
    drawn: number;
    at: Xyz;
    line: readonly Xyz[];
    closed: boolean;
    text: string;
    label: string;
    testid: string;
}>();
const emit = defineEmits<{ moved: [to: Xyz] }>();

/** Where it has been dragged to, while it is. */
const held = ref<Xyz | null>(null);
const place = computed(() => {
    void props.drawn;
    return props.view?.onScreen(held.value ?? props.at) ?? null;
});

/** The place of the line that is seen nearest to a place of the screen. */
function nearest(x: number, y: number): Xyz | null {
    const { view, line, closed } = props;
    if (!view) return null;
    const seen = line.map((p) => view.onScreen(p));
    let best: { off: number; at: Xyz } | null = null;
    for (let k = 0; k < (closed ? line.length : line.length - 1); k++) {
        const next = (k + 1) % line.length;
        const [a, b] = [seen[k], seen[next]];
        if (!a || !b) continue;
        const [dx, dy] = [b.x - a.x, b.y - a.y];
        const along = ((x - a.x) * dx + (y - a.y) * dy) / (dx * dx + dy * dy || 1);
        const t = Math.min(1, Math.max(0, along));
        const off = Math.hypot(a.x + dx * t - x, a.y + dy * t - y);
        if (!best || off < best.off) {
            const at = line[k]!.map((p, i) => p + (line[next]![i]! - p) * t) as Xyz;
            best = { off, at };
        }
    }
    return best?.at ?? null;
}
function press(event: PointerEvent) {
    (event.target as Element).setPointerCapture(event.pointerId);
    held.value = props.at;
}
function drag(event: PointerEvent) {
    if (!held.value || !props.view) return;
    const box = props.view.host.getBoundingClientRect();
    held.value = nearest(event.clientX - box.left, event.clientY - box.top) ?? held.value;
}
function drop() {
    const to = held.value;
    held.value = null;
    if (to && to !== props.at) emit('moved', to.map((x) => Number(x.toFixed(4))) as Xyz);
}
</script>

<template>
    <HandleDot
        v-if="place"
        :view="view"
        :place="place"
        :text="text"
        :label="label"
        :testid="testid"
        @press="press"
        @drag="drag"
        @drop="drop"
    />
</template>
