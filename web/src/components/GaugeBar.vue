<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { answer, api, type Schemas } from '../api/client';
import * as f from '../format';
import { useBench } from '../stores/bench';
import { useBoard } from '../stores/board';
import { useWalls } from '../stores/walls';
import { useJob } from '../stores/job';
import { profileIcon, stateOf } from '../text';

const bench = useBench();
const board = useBoard();
const jobs = useJob();
const part = computed(() => bench.part);
const look = computed(() => (part.value ? stateOf(part.value) : null));
const material = computed(() => {
    const held = part.value?.material;
    return held?.own?.name ?? jobs.materials.find((m) => m.key === held?.material)?.name;
});
/** The mesh the part came in with. */
const origin = computed(() => (part.value ? jobs.origin(part.value.id) : undefined));
const off = ref<Schemas['DeviationView'] | null>(null);
watch(
    [() => part.value?.mesh, origin],
    async ([mesh, from]) => {
        off.value = null;
        if (!mesh || !from || mesh === from) return;
        const path = { mesh, from };
        const got = await answer(
            api.GET('/api/v1/meshes/{mesh}/deviation/{from}', { params: { path } }),
        ).catch(() => null);
        if (mesh === part.value?.mesh) off.value = got;
    },
    { immediate: true },
);
const deviation = computed(() => {
    if (part.value?.mesh === origin.value) return { value: 'none', title: 'The part is as it came in' };
    const d = off.value;
    if (!d) return { value: '…', title: 'Measuring how far the part lies from what came in' };
    return {
        value: f.millimetres(Math.max(d.largest_back, 0)),
        title:
            `What came in lies at most ${f.millimetres(d.largest_back)} off the part (mean ${f.millimetres(d.mean_back)}); ` +
            `the part, new surfaces included, at most ${f.millimetres(d.largest)} off what came in (mean ${f.millimetres(d.mean)})`,
    };
});
/** What mending took off the surface. */
const lost = computed(() => {
    const losses = part.value?.losses;
    const share = losses?.steps.reduce((all, l) => all + l.share, 0) ?? 0;
    const title = losses?.steps.length
        ? `Of the surface that came in: ${losses.steps.map((l) => `${f.percent(l.share)} (${f.area(l.area)}) by ${l.title}`).join(', ')}`
        : 'Mending took nothing off the surface that came in';
    return { value: share > 0 ? f.percent(share) : 'none', title };
});
const walls = useWalls();
const thinnest = computed(() => {
    if (!walls.measurable)
        return { value: `none: ${part.value?.figures.state}`, title: 'Only a solid has walls' };
    const least = walls.report?.least;
    if (walls.report && least == null) return { value: 'none', title: 'Nothing lies opposite anything' };
    return {
        value: least == null ? '…' : f.millimetres(least),
        title: `The thinnest place, by the largest ball inside; ${walls.asks?.name ?? ''} asks for ${f.millimetres(walls.least ?? 0)}`,
    };
});
/** Of a drawing: how much there is of it. */
const drawing = computed(() => {
    const seen = board.view?.seen;
    if (!seen) return [];
    return [
        { name: 'Lines', value: `${board.lines.length}` },
        { name: 'Curves', value: `${seen.curves}` },
        { name: 'Length', value: f.millimetres(seen.length) },
        { name: 'Size', value: `${f.millimetres(seen.size[0]!)} × ${f.millimetres(seen.size[1]!)}` },
        { name: 'Crossings', value: `${seen.crossings.length}` },
    ];
});
const gauges = computed(() => {
    const p = part.value;
    if (!p) return [];
    const noVolume = p.figures.volume == null;
    const massReason = noVolume ? 'none: no volume' : 'none: no material chosen';
    return [
        { name: 'Volume', value: noVolume ? `none: ${p.figures.state}` : f.volume(p.figures.volume!) },
        {
            name: material.value ? `Mass, ${material.value}` : 'Mass',
            value: p.mass == null ? massReason : f.mass(p.mass),
        },
        { name: 'Least wall', ...thinnest.value },
        { name: 'Size', value: f.size(p.figures.size) },
        { name: 'Triangles', value: f.whole(p.figures.triangles) },
        { name: 'Deviation', ...deviation.value },
        { name: 'Lost', ...lost.value },
    ];
});
</script>

<template>
    <footer class="gauge" aria-label="Gauge bar" aria-live="polite">
        <template v-if="board.on && board.view">
            <span class="state" data-testid="board-state">
                <v-icon :icon="profileIcon" size="20" />
                <span class="reason">{{ board.lines.length ? board.view.told : 'an empty board' }}</span>
            </span>
            <button
                v-if="board.view.loose"
                type="button"
                class="item loose"
                :aria-pressed="board.looseShown"
                title="Shows how each loose place can go"
                data-testid="board-loose"
                @click="board.looseShown = !board.looseShown"
            >
                {{ board.view.loose.count ? `loose: ${board.view.loose.count}` : 'all held' }}
            </button>
            <span v-for="g in drawing" :key="g.name" class="item">
                <span class="small-caps label">{{ g.name }}</span>
                <span class="figure">{{ g.value }}</span>
            </span>
        </template>
        <template v-else-if="part && look">
            <span class="state" data-testid="gauge-state">
                <v-icon :icon="look.icon" :color="look.colour" size="20" />
                <span class="reason">{{ look.title }}</span>
            </span>
            <span
                v-for="g in gauges"
                :key="g.name"
                class="item"
                :title="'title' in g ? g.title : `${g.name}: ${g.value}`"
            >
                <span class="small-caps label">{{ g.name }}</span>
                <span class="figure" :data-testid="`gauge-${g.name.split(',')[0]!.toLowerCase()}`">{{
                    g.value
                }}</span>
            </span>
        </template>
        <span v-else class="soft">No part on the bench</span>
    </footer>
</template>

<style scoped>
.gauge {
    display: flex;
    align-items: center;
    gap: 22px;
    padding: 0 12px;
    background: rgb(var(--v-theme-surface));
    border-top: 1px solid rgb(var(--v-theme-rule));
    white-space: nowrap;
    overflow: hidden;
}
.state {
    display: flex;
    align-items: center;
    gap: 8px;
    flex: 0 1 auto;
    min-width: 0;
}
.reason {
    font-weight: 600;
    overflow: hidden;
    text-overflow: ellipsis;
}
.loose {
    text-decoration: underline;
    cursor: pointer;
}
.loose[aria-pressed='true'] {
    color: #8a5f10;
    font-weight: 600;
}
.v-theme--night .loose[aria-pressed='true'] {
    color: #e0b45a;
}
.item {
    display: flex;
    align-items: baseline;
    gap: 6px;
    flex: none;
}
.label {
    max-width: 190px;
    overflow: hidden;
    text-overflow: ellipsis;
}
</style>
