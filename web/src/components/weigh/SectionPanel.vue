<script setup lang="ts">
// Cuts: made by axis, through a face or three points; turned on and off, measured, handed out as drawings.
import { computed } from 'vue';
import * as f from '../../format';
import { axisOf, offsetOf, offsetTo, planeThrough } from '../../planes';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { usePicks } from '../../tools/picking/picks';
import { useSections, type Section } from '../../stores/sections';
import LengthField from '../../tools/fields/LengthField.vue';

const bench = useBench();
const jobs = useJob();
const picks = usePicks();
const sections = useSections();

const throughPoints = () =>
    picks.ask('Click three points the section goes through.', 3, (points) => {
        const plane = planeThrough(points.map((p) => p.at));
        if (plane) sections.add(plane);
    });
/** Square to a face, or along it where it is flat and a section in it would show nothing: through its middle. */
const throughFace = () =>
    picks.ask('Click a face; the section runs along it, a little inside.', 1, ([p]) => {
        if (!p?.normal) return;
        const size = Math.hypot(...(bench.part?.figures.size ?? [50]));
        sections.add({
            at: p.at.map((x, i) => x - p.normal![i]! * size * 0.002),
            normal: p.normal,
        });
    });

const told = (s: Section) => {
    const parts = bench.shownParts.flatMap((p) => {
        const cut = sections.cutOf(p.mesh, s);
        return cut ? [cut] : [];
    });
    if (!parts.length) return null;
    const open = parts.some((c) => c.area == null);
    return {
        area: open ? null : parts.reduce((sum, c) => sum + (c.area ?? 0), 0),
        length: parts.reduce((sum, c) => sum + c.length, 0),
    };
};
const rows = computed(() => sections.list.map((s) => ({ s, told: s.on ? told(s) : null })));
</script>

<template>
    <div class="d-flex flex-wrap ga-2">
        <v-btn
            v-for="(axis, n) in ['x', 'y', 'z']"
            :key="axis"
            size="small"
            variant="outlined"
            :data-testid="`section-${axis}`"
            @click="sections.across(n)"
            >Across {{ axis }}</v-btn
        >
        <v-btn size="small" variant="outlined" data-testid="section-face" @click="throughFace"
            >Along a face</v-btn
        >
        <v-btn size="small" variant="outlined" data-testid="section-points" @click="throughPoints"
            >Three points</v-btn
        >
    </div>
    <p v-if="picks.picking" class="soft">{{ picks.picking.hint }}</p>
    <ul v-if="rows.length" class="list" data-testid="sections">
        <li v-for="({ s, told: figures }, n) in rows" :key="n" :class="{ chosen: n === sections.active }">
            <div class="line">
                <input
                    type="checkbox"
                    :checked="s.on"
                    :aria-label="`${s.name} on`"
                    :data-testid="`section-on-${n}`"
                    @change="sections.change(n, { on: !s.on })"
                />
                <input
                    class="name"
                    :value="s.name"
                    aria-label="Name of the section"
                    maxlength="80"
                    @focus="sections.active = n"
                    @change="sections.change(n, { name: ($event.target as HTMLInputElement).value })"
                />
                <span class="soft figure">{{
                    axisOf(s.plane.normal) === null ? 'oblique' : 'xyz'[axisOf(s.plane.normal)!]
                }}</span>
                <button type="button" :aria-label="`Remove ${s.name}`" @click="sections.remove(n)">✕</button>
            </div>
            <template v-if="n === sections.active && s.on">
                <div class="two">
                    <LengthField
                        label="Place"
                        signed
                        :value="offsetOf(s.plane)"
                        :testid="`section-place-${n}`"
                        @change="sections.change(n, { plane: offsetTo(s.plane, $event!) })"
                    />
                    <v-btn
                        class="mt-3"
                        size="small"
                        variant="text"
                        title="Show the other half"
                        @click="
                            sections.change(n, {
                                plane: {
                                    ...s.plane,
                                    normal: s.plane.normal.map((x) => -x) as [number, number, number],
                                },
                            })
                        "
                        >Other half</v-btn
                    >
                </div>
                <p v-if="figures" class="figure" :data-testid="`section-told-${n}`">
                    {{ figures.area == null ? 'no area: open' : f.area(figures.area) }},
                    {{ f.millimetres(figures.length) }} of outline
                </p>
                <p v-if="jobs.job">
                    <a :href="sections.drawing(s, 'svg')" :data-testid="`section-svg-${n}`" download
                        >{{ s.name }}.svg</a
                    >
                    ·
                    <a :href="sections.drawing(s, 'dxf')" :data-testid="`section-dxf-${n}`" download
                        >{{ s.name }}.dxf</a
                    >
                    <span class="soft"> the parts shown, in true size</span>
                </p>
            </template>
        </li>
    </ul>
</template>

<style scoped>
.list {
    list-style: none;
    margin: 8px 0 0;
}
.list li {
    padding: 4px 6px;
    border-left: 3px solid transparent;
}
.chosen {
    border-left-color: rgb(var(--v-theme-primary)) !important;
    background: rgb(var(--v-theme-background));
}
.line {
    display: flex;
    gap: 8px;
    align-items: center;
}
.line button {
    cursor: pointer;
}
.name {
    flex: 1;
    min-width: 0;
    padding: 2px 6px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 3px;
    color: inherit;
    background: rgb(var(--v-theme-surface));
}
.two {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 8px;
}
a {
    color: rgb(var(--v-theme-primary));
}
</style>
