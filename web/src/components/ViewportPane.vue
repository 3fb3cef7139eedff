<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import BoardSheet from '../board/BoardSheet.vue';
import { useBoardHand } from '../board/useBoardHand';
import { useBench } from '../stores/bench';
import { useBoard } from '../stores/board';
import { usePen } from '../stores/pen';
import { useProfiles } from '../stores/profiles';
import { useForecast } from '../stores/forecast';
import { useJob } from '../stores/job';
import { usePicks } from '../tools/picking/picks';
import { useParts } from '../stores/parts';
import { useSteps } from '../stores/steps';
import { useWalls } from '../stores/walls';
import { Bench } from '../viewport/bench';
import { spotsOf } from '../viewport/spots';
import type { Label } from '../viewport/labels';
import { useModels } from '../stores/models';
import { useWalking } from '../tools/picking/walking';
import { usePicking } from '../tools/picking/usePicking';
import CourseHandles from '../tools/handles/CourseHandles.vue';
import DomeHandle from '../tools/handles/DomeHandle.vue';
import { useViewKeys } from './viewKeys';
import FaceCaption from './FaceCaption.vue';
import InspectHandles from './InspectHandles.vue';
import FirstWalk from './FirstWalk.vue';
import LensScale from './LensScale.vue';
import LensSwitch from './LensSwitch.vue';
import ExtrudeHandle from '../tools/handles/ExtrudeHandle.vue';
import PlaneHandles from '../tools/handles/PlaneHandles.vue';
import PickDots from './PickDots.vue';
import SectionHandle from './SectionHandle.vue';
import WallHandle from '../tools/handles/WallHandle.vue';
import ViewLabels from './ViewLabels.vue';
import ViewRosette from './ViewRosette.vue';
import ViewportNotice from './ViewportNotice.vue';

const bench = useBench();
const board = useBoard();
const pen = usePen();
const profiles = useProfiles();
const jobs = useJob();
const forecast = useForecast();
const picks = usePicks();
const walls = useWalls();
const parts = useParts();
const steps = useSteps();
const host = ref<HTMLElement>();
const view = shallowRef<Bench | null>(null);
const labels = ref<Label[]>([]);
const { loading, far, failure, farthest } = useModels(view);
const picking = usePicking(view);
const { aim, dots, brushRing } = picking;
useWalking(view, picking);
const boardHand = useBoardHand(view);
/** Whether the pointer draws on the board; points asked for on the side come first. */
const draws = computed(() => (board.on || profiles.picking) && !picking.active.value);
/** Goes up with each drawing. */
const drawn = ref(0);

const empty = computed(() => !jobs.parts.length && !jobs.loading);
const described = computed(() => {
    const part = bench.part;
    if (!part) return 'The bench is empty.';
    const rims = bench.examination?.rims.length ?? 0;
    return `${part.name}: ${part.figures.reason}. ${rims} rims are drawn as hazard stripes. Arrow keys turn the view.`;
});

const rimAt = (event: MouseEvent) => view.value?.probe.pick(...placeOf(event)) ?? null;
function placeOf(event: MouseEvent): [number, number] {
    const box = host.value!.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
}

let down: [number, number] | null = null;
let painting = false;
function press(event: PointerEvent) {
    down = [event.clientX, event.clientY];
    if (draws.value) return boardHand.press(event, ...placeOf(event));
    painting = picking.kind.value === 'brush' && event.button === 0;
    if (painting) picking.paint(...placeOf(event));
}
function click(event: PointerEvent) {
    if (draws.value && event.button !== 2) return void boardHand.release(event, ...placeOf(event));
    if (painting) {
        painting = false;
        picking.endStroke();
        return;
    }
    // A drag is a turn of the view, not a pick.
    if (!down || Math.hypot(event.clientX - down[0], event.clientY - down[1]) > 4) return;
    if (event.button === 2) {
        const part = rimAt(event)?.part;
        if (part !== undefined && part >= 0) parts.menu = { part, x: event.clientX, y: event.clientY };
        return;
    }
    if (event.button !== 0) return;
    if (picking.active.value) return picking.click(...placeOf(event));
    const hit = rimAt(event);
    if (hit && hit.part !== bench.part?.id && hit.part >= 0 && picks.partAsker)
        return picks.partAsker.toggle(hit.part);
    bench.face = hit?.face ?? null;
    // A click never puts an open tool away.
    if (forecast.draft) return;
    if (!hit) return bench.selectFinding(null);
    if (hit.part !== bench.part?.id) bench.selectPart(hit.part);
    if (hit.rim) pickRim(hit.rim);
}

/** Twice: ends what is drawn; opens the drawing of a profile again; flies to the part. */
function twice(event: MouseEvent) {
    if (draws.value) return void pen.finish();
    const drawing = steps.drawingOf(rimAt(event)?.part);
    if (drawing && !forecast.draft) void forecast.reopen(drawing);
    else bench.flights++;
}

/** The finding a rim belongs to: its own, or the gap it runs along. */
function pickRim(rim: string) {
    const gap = bench.examination?.gaps.find((g) => g.rims.includes(rim));
    const own = bench.findings.find((f) => f.key === `rim-${rim}` || f.key === `needle-${rim}`);
    const other = bench.findings.find((f) => f.key === `gap-${gap?.name}`);
    bench.selectFinding((own ?? other)?.key ?? null);
}

let hoverTimer = 0;
function hover(event: PointerEvent) {
    if (draws.value) {
        host.value!.style.cursor = pen.pen || pen.aim ? 'crosshair' : 'default';
        return boardHand.move(event, ...placeOf(event));
    }
    if (painting) return picking.paint(...placeOf(event));
    if (event.buttons) return;
    window.clearTimeout(hoverTimer);
    hoverTimer = window.setTimeout(() => {
        if (picking.active.value) {
            picking.hover(...placeOf(event));
            host.value!.style.cursor = picking.kind.value === 'brush' ? 'none' : 'crosshair';
            return;
        }
        const hit = rimAt(event);
        walls.under = hit?.off ?? null;
        const rim = hit?.rim ?? null;
        host.value!.style.cursor = rim ? 'pointer' : 'default';
        view.value?.highlight(rim ? [rim] : chosenRims.value, hit?.part ?? bench.part?.id ?? null);
    }, 20);
}

/** The rims of the selected finding. */
const chosenRims = computed<readonly string[]>(() => {
    const [, kind, name] = bench.findingKey?.match(/^(rim|gap|needle)-(.+)$/) ?? [];
    if (kind === 'rim' || kind === 'needle') return [name!];
    return bench.examination?.gaps.find((g) => g.name === name)?.rims ?? [];
});
const chosenNames = computed(() => [...chosenRims.value, bench.finding?.title.match(/[A-Z]\d+/)?.[0] ?? '']);
const spots = computed(() => (bench.part ? spotsOf(bench.part.id, bench.listed) : []));
watch([spots, view], ([now]) => view.value?.name(now));
watch(
    () => bench.before && !!forecast.ready,
    (on) => view.value?.setBefore(on),
);
watch(chosenRims, (rims) => view.value?.highlight(rims, bench.part?.id ?? null));

useViewKeys(view);

onMounted(() => {
    try {
        view.value = new Bench(host.value!);
        view.value.onDrawn = (now) => {
            labels.value = now;
            host.value!.dataset.eye = view.value!.eye.at.map((x) => x.toFixed(2)).join();
            drawn.value++;
            picking.place();
        };
    } catch {
        failure.value =
            'This browser cannot draw in three dimensions (WebGL 2 is missing). Everything else works.';
    }
});

/** What is shown instead of the job as it stands. */
const banner = computed(() => {
    const [asOf, changed] = [jobs.asOf, forecast.ready && !forecast.ready.asItWas];
    if (asOf?.from) return 'Two states compared';
    if (bench.before && forecast.ready) return 'Before';
    const told = changed
        ? 'forecast, not applied yet'
        : forecast.ready
          ? 'as it was done'
          : 'the part before it';
    if (asOf?.reopened) return `Step ${asOf.reopened.number} reopened: ${told}`;
    return forecast.ready ? 'Forecast: not applied yet' : '';
});
</script>

<template>
    <section class="viewport" aria-label="Viewport">
        <div
            ref="host"
            class="canvas"
            :class="{ bare: empty && !board.on }"
            role="img"
            tabindex="0"
            :aria-label="described"
            :data-loading="loading"
            data-testid="viewport"
            @pointerdown="press"
            @pointerup="click"
            @pointermove="hover"
            @pointerleave="picking.aim.value = null"
            @contextmenu.prevent
            @dblclick="twice"
        />
        <BoardSheet :view="view" :drawn="drawn" :part-on="boardHand.partOn" :flat="boardHand.flatAt" />
        <ViewLabels v-if="!board.on" :labels="labels" :chosen="chosenNames" />
        <PickDots :dots="dots" :ring="brushRing" />
        <CourseHandles :view="view" :drawn="drawn" />
        <DomeHandle :view="view" :drawn="drawn" />
        <PlaneHandles :view="view" :drawn="drawn" />
        <ExtrudeHandle :view="view" :drawn="drawn" />
        <WallHandle :view="view" :drawn="drawn" />
        <InspectHandles :view="view" :drawn="drawn" />
        <LensScale v-if="bench.part" class="scale" :farthest="farthest" />
        <FaceCaption v-if="!aim" class="face" />
        <LensSwitch class="lens" />
        <SectionHandle class="section" />
        <FirstWalk />
        <ViewRosette class="rosette" @look="view?.look($event)" />
        <ViewportNotice class="notice" :loading="loading" :far="far" :failure="failure" :empty="empty" />
        <span v-if="banner" class="forecast" role="status" data-testid="banner">{{ banner }}</span>
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
/* Without a part there is nothing the plate could be measured by. */
.bare {
    opacity: 0;
}
.scale {
    position: absolute;
    right: 8px;
    bottom: 8px;
}
.face {
    position: absolute;
    left: 50%;
    bottom: 10px;
    transform: translateX(-50%);
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
    top: 46px;
    left: 8px;
    padding: 3px 12px;
    border-radius: 4px;
    font-weight: 600;
    color: #1f2b33;
    background: #d9a441;
}
</style>
