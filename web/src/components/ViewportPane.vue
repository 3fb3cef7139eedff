<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue';
import { VIEW_KEY } from '../keys';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import { useJob } from '../stores/job';
import { Bench } from '../viewport/bench';
import type { Label } from '../viewport/labels';
import { useModels } from '../viewport/models';
import LensSwitch from './LensSwitch.vue';
import SectionHandle from './SectionHandle.vue';
import ViewRosette from './ViewRosette.vue';
import ViewportNotice from './ViewportNotice.vue';

const bench = useBench();
const jobs = useJob();
const forecast = useForecast();
const host = ref<HTMLElement>();
const view = shallowRef<Bench | null>(null);
const labels = ref<Label[]>([]);
const { loading, failure } = useModels(view);

const described = computed(() => {
    const part = bench.part;
    if (!part) return 'The bench is empty.';
    const rims = bench.examination?.rims.length ?? 0;
    return `${part.name}: ${part.figures.reason}. ${rims} rims are drawn as hazard stripes. Arrow keys turn the view.`;
});

function rimAt(event: MouseEvent) {
    const box = host.value!.getBoundingClientRect();
    return view.value?.pick(event.clientX - box.left, event.clientY - box.top) ?? null;
}

let down: [number, number] | null = null;
function press(event: PointerEvent) {
    down = [event.clientX, event.clientY];
}
function click(event: PointerEvent) {
    // A drag is a turn of the view, not a pick.
    if (!down || Math.hypot(event.clientX - down[0], event.clientY - down[1]) > 4) return;
    const hit = rimAt(event);
    if (!hit) return bench.selectFinding(null);
    if (hit.part !== bench.part?.id) bench.selectPart(hit.part);
    if (hit.rim) pickRim(hit.rim);
}

/** The finding a rim belongs to: its own, or the gap it runs along. */
function pickRim(rim: string) {
    const gap = bench.examination?.gaps.find((g) => g.rims.includes(rim));
    const own = bench.findings.find((f) => f.key === `rim-${rim}`);
    const other = bench.findings.find((f) => f.key === `gap-${gap?.name}`);
    bench.selectFinding((own ?? other)?.key ?? null);
}

let hoverTimer = 0;
function hover(event: PointerEvent) {
    if (event.buttons) return;
    window.clearTimeout(hoverTimer);
    hoverTimer = window.setTimeout(() => {
        const hit = rimAt(event);
        const rim = hit?.rim ?? null;
        host.value!.style.cursor = rim ? 'pointer' : 'default';
        view.value?.highlight(rim ? [rim] : chosenRims.value, hit?.part ?? bench.part?.id ?? null);
    }, 20);
}

/** The rims of the selected finding. */
const chosenRims = computed<readonly string[]>(() => {
    const [, kind, name] = bench.findingKey?.match(/^(rim|gap)-(.+)$/) ?? [];
    if (kind === 'rim') return [name!];
    return bench.examination?.gaps.find((g) => g.name === name)?.rims ?? [];
});
watch(chosenRims, (rims) => view.value?.highlight(rims, bench.part?.id ?? null));

function viewKey(event: Event) {
    const key = (event as CustomEvent<string>).detail;
    const turns: Record<string, [number, number]> = {
        ArrowLeft: [-0.15, 0],
        ArrowRight: [0.15, 0],
        ArrowUp: [0, 0.15],
        ArrowDown: [0, -0.15],
    };
    if (turns[key]) view.value?.turn(...turns[key]);
    else view.value?.zoom(key === '+' ? 0.85 : 1.18);
}

onMounted(() => {
    try {
        view.value = new Bench(host.value!);
        view.value.onDrawn = (now) => (labels.value = now);
    } catch {
        failure.value =
            'This browser cannot draw in three dimensions (WebGL 2 is missing). Everything else works.';
    }
    window.addEventListener(VIEW_KEY, viewKey);
});
onUnmounted(() => window.removeEventListener(VIEW_KEY, viewKey));
</script>

<template>
    <section class="viewport" aria-label="Viewport">
        <div
            ref="host"
            class="canvas"
            role="img"
            tabindex="0"
            :aria-label="described"
            :data-loading="loading"
            data-testid="viewport"
            @pointerdown="press"
            @pointerup="click"
            @pointermove="hover"
            @dblclick="bench.flights++"
        />
        <span
            v-for="l in labels"
            :key="l.key"
            class="label figure"
            :class="{ chosen: chosenRims.includes(l.text) }"
            :style="{ transform: `translate(-50%, -50%) translate(${l.x}px, ${l.y}px)` }"
            aria-hidden="true"
            >{{ l.text }}</span
        >
        <LensSwitch class="lens" />
        <SectionHandle class="section" />
        <ViewRosette class="rosette" @look="view?.look($event)" />
        <ViewportNotice
            class="notice"
            :loading="loading"
            :failure="failure"
            :empty="!jobs.parts.length && !jobs.loading"
        />
        <span v-if="forecast.ready" class="forecast" role="status">Forecast: not applied yet</span>
    </section>
</template>

<style scoped>
.viewport {
    position: relative;
    min-width: 0;
    overflow: hidden;
    background: rgb(var(--v-theme-background));
}
.canvas {
    position: absolute;
    inset: 0;
}
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
.label.chosen {
    outline: 2px solid #a8761f;
}
.lens {
    position: absolute;
    top: 8px;
    left: 8px;
}
.section {
    position: absolute;
    left: 8px;
    bottom: 8px;
}
.rosette {
    position: absolute;
    right: 8px;
    top: 8px;
}
.notice {
    position: absolute;
    inset: 0;
}
.forecast {
    position: absolute;
    top: 10px;
    left: 55%;
    transform: translateX(-50%);
    padding: 3px 12px;
    border-radius: 4px;
    font-weight: 600;
    color: #1f2b33;
    background: #d9a441;
}
</style>
