<script setup lang="ts">
// The parameters of the considered step.
import { computed } from 'vue';
import type { Action } from '../api/client';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import { useJob } from '../stores/job';
import { usePicks } from '../stores/picks';
import { useTools } from '../stores/tools';
import CheckRow from './tools/CheckRow.vue';
import FastenFields from './fasten/FastenFields.vue';
import ChoiceRow from './tools/ChoiceRow.vue';
import LengthField from './tools/LengthField.vue';
import MendFields from './tools/MendFields.vue';
import OutlineFields from './tools/OutlineFields.vue';
import PickLine from './tools/PickLine.vue';
import PlanFields from './tools/PlanFields.vue';
import RunFields from './tools/RunFields.vue';
import ShapeFields from './tools/ShapeFields.vue';
import WallFields from './tools/WallFields.vue';
import WeighFields from './tools/WeighFields.vue';
import WhatFields from './tools/WhatFields.vue';
import WrapFields from './tools/WrapFields.vue';

const forecast = useForecast();
const bench = useBench();
const jobs = useJob();
const picks = usePicks();
const tools = useTools();
const a = computed(() => forecast.draft);
type ShapeAction = Extract<Action, { kind: `shape.${string}` }>;
const shape = computed(() => (a.value?.kind.startsWith('shape.') ? (a.value as ShapeAction) : null));
type WallAction = Extract<Action, { kind: `wall.${string}` }>;
const wall = computed(() => (a.value?.kind.startsWith('wall.') ? (a.value as WallAction) : null));

type Mend = Extract<Action, { kind: 'seal.merge_points' | 'seal.find_inside' | 'seal.close_gaps' }>;
const mending = ['seal.merge_points', 'seal.find_inside', 'seal.close_gaps'];
const mend = computed(() => (a.value && mending.includes(a.value.kind) ? (a.value as Mend) : null));

type FastenAction = Extract<Action, { kind: `fasten.${string}` }>;
const fasten = computed(() => (a.value?.kind.startsWith('fasten.') ? (a.value as FastenAction) : null));

/** Adds surface, which may be let pass through the part. */
type Adds = Extract<Action, { may_cross?: boolean }>;
const adding = ['seal.cover_rim', 'seal.cover_runs', 'seal.bridge', 'seal.re_skin', 'seal.fill_outline'];
const adds = computed(() => (a.value && adding.includes(a.value.kind) ? (a.value as Adds) : null));

/** Changed by hand, a step is the tool's, no longer the remedy's it began as. */
function change(action: Action) {
    if (!jobs.asOf?.reopened) forecast.title = tools.of(action)?.name ?? forecast.title;
    picks.change(action);
}

const rims = computed(() => (bench.examination?.rims ?? []).filter((r) => r.closed));
const rimAt = (near: readonly number[]) =>
    rims.value.find((r) => r.pick.near.every((x, i) => x === near[i]))?.name;
const styles = [
    { value: 'flat', title: 'Flat' },
    { value: 'taut', title: 'Taut' },
    { value: 'domed', title: 'Domed' },
];
const shapes = [
    { value: 'straight', title: 'Straight' },
    { value: 'flat', title: 'Flat' },
    { value: 'tangent', title: 'Tangent' },
];
const pieces = [
    { value: 'shells', title: 'Shells' },
    { value: 'faces', title: 'Faces' },
];
const faceChoices = [
    { value: 'all', title: 'All faces' },
    { value: 'picked', title: 'Picked faces' },
];
const otherParts = computed(() => jobs.parts.filter((p) => p.id !== bench.part?.id));
const pickedRims = computed(() =>
    a.value?.kind === 'seal.cover_rim' && typeof a.value.rims === 'object'
        ? a.value.rims.picked.flatMap((p) => rimAt(p.near) ?? [])
        : [],
);
/** Picked rims that are not there any more. */
const gone = computed(() =>
    a.value?.kind === 'seal.cover_rim' && typeof a.value.rims === 'object'
        ? a.value.rims.picked.length - pickedRims.value.length
        : 0,
);
const rimPicks = (names: string[]) => rims.value.filter((r) => names.includes(r.name)).map((r) => r.pick);
</script>

<template>
    <template v-if="a?.kind === 'seal.plan'"><PlanFields :action="a" /></template>
    <template v-else-if="mend"><MendFields :action="mend" @change="change" /></template>
    <template v-else-if="a?.kind === 'seal.cover_rim'">
        <ChoiceRow
            label="Shape of the cover"
            :items="styles"
            :value="a.style"
            name="style"
            @change="change({ ...a, style: $event as typeof a.style, height: null })"
        />
        <LengthField
            v-if="a.style === 'domed'"
            label="Height"
            empty="as it comes"
            :value="a.height"
            signed
            testid="height"
            @change="change({ ...a, height: $event })"
        />
        <v-select
            class="mt-2"
            :label="
                gone
                    ? `${gone} picked before ${gone === 1 ? 'is' : 'are'} gone; pick again`
                    : 'Rims (none chosen: all)'
            "
            multiple
            chips
            :items="rims.map((r) => r.name)"
            :model-value="pickedRims"
            data-testid="rims"
            @update:model-value="
                change({ ...a, rims: $event.length ? { picked: rimPicks($event) } : 'all', as_one: false })
            "
        />
        <CheckRow
            v-if="pickedRims.length > 1 && a.style !== 'flat'"
            :value="a.as_one"
            label="One cover over all of them, with islands"
            testid="as-one"
            @change="change({ ...a, as_one: $event })"
        />
    </template>
    <template v-else-if="a?.kind === 'seal.cover_runs'">
        <RunFields />
        <ChoiceRow
            label="Shape of the covers"
            :items="styles"
            :value="a.style"
            name="style"
            @change="change({ ...a, style: $event as typeof a.style, height: null })"
        />
    </template>
    <template v-else-if="a?.kind === 'seal.bridge'">
        <div v-if="'near' in a.from && 'near' in a.to" class="d-flex ga-2 mt-2">
            <v-select
                label="From"
                :items="rims.map((r) => r.name)"
                :model-value="rimAt(a.from.near)"
                data-testid="bridge-from"
                @update:model-value="change({ ...a, from: rimPicks([$event])[0]! })"
            />
            <v-select
                label="To"
                :items="rims.map((r) => r.name)"
                :model-value="rimAt(a.to.near)"
                data-testid="bridge-to"
                @update:model-value="change({ ...a, to: rimPicks([$event])[0]! })"
            />
        </div>
        <RunFields v-else />
        <ChoiceRow
            label="Shape of the band"
            :items="shapes"
            :value="a.shape"
            name="shape"
            @change="change({ ...a, shape: $event as typeof a.shape })"
        />
    </template>
    <template v-else-if="a?.kind === 'seal.fill_outline'"><OutlineFields :action="a" /></template>
    <template v-else-if="a?.kind === 'seal.lift_out' || a?.kind === 'seal.re_skin'">
        <WhatFields :action="a" />
        <v-select
            class="mt-2"
            label="Rings of neighbours taken out as well"
            :items="[0, 1, 2, 3, 4, 6, 8]"
            :model-value="a.rings"
            data-testid="rings"
            @update:model-value="change({ ...a, rings: $event })"
        />
    </template>
    <template v-else-if="a?.kind === 'seal.turn'"><WhatFields :action="a" /></template>
    <template v-else-if="a?.kind === 'seal.smooth'">
        <WhatFields :action="a" />
        <LengthField
            label="Strength, to 1"
            :value="a.strength"
            suffix=""
            testid="strength"
            @change="change({ ...a, strength: $event! })"
        />
        <LengthField
            label="Passes"
            :value="a.passes"
            suffix=""
            testid="passes"
            @change="change({ ...a, passes: Math.round($event!) })"
        />
    </template>
    <template v-else-if="a?.kind === 'seal.group_faces'">
        <LengthField
            label="Edges that turn by more part faces"
            empty="26°"
            :value="a.angle"
            suffix="°"
            testid="angle"
            @change="change({ ...a, angle: $event })"
        />
        <LengthField
            label="Tolerance"
            empty="by the part's size"
            :value="a.tolerance"
            testid="tolerance"
            @change="change({ ...a, tolerance: $event })"
        />
    </template>
    <template v-else-if="a?.kind === 'seal.merge_faces'">
        <ChoiceRow
            label="Which faces"
            :items="faceChoices"
            :value="typeof a.faces === 'string' ? 'all' : 'picked'"
            name="faces"
            @change="change({ ...a, faces: $event === 'all' ? 'all' : { picked: [] } })"
        />
        <PickLine />
        <LengthField
            label="Tolerance"
            :value="a.tolerance"
            testid="tolerance"
            @change="change({ ...a, tolerance: $event! })"
        />
        <CheckRow
            :value="a.simplify"
            label="Fewer triangles too"
            @change="change({ ...a, simplify: $event })"
        />
    </template>
    <template v-else-if="a?.kind === 'seal.pull_apart'">
        <ChoiceRow
            label="Into"
            :items="pieces"
            :value="a.into"
            name="into"
            @change="change({ ...a, into: $event as 'shells' | 'faces' })"
        />
    </template>
    <template v-else-if="a?.kind === 'seal.join'">
        <v-select
            class="mt-2"
            label="Parts that go into this one"
            multiple
            chips
            :items="otherParts.map((p) => ({ title: p.name, value: p.id }))"
            :model-value="a.with"
            data-testid="join-with"
            @update:model-value="change({ ...a, with: $event })"
        />
        <LengthField
            label="Reach"
            :value="a.reach"
            signed
            hint="0 joins only edges that meet exactly"
            testid="reach"
            @change="change({ ...a, reach: $event! })"
        />
    </template>
    <ShapeFields v-else-if="shape" :action="shape" />
    <WallFields v-else-if="wall" :action="wall" />
    <FastenFields v-else-if="fasten" :action="fasten" />
    <WeighFields v-else-if="a?.kind === 'weigh.fill' || a?.kind === 'weigh.scale_pattern'" :action="a" />
    <template v-else-if="a?.kind === 'seal.wrap'"><WrapFields :action="a" /></template>
    <template v-else-if="a?.kind === 'seal.drop'">
        <CheckRow :value="a.duplicates" label="Duplicates" @change="change({ ...a, duplicates: $event })" />
        <CheckRow
            :value="a.degenerate"
            label="Triangles without area"
            @change="change({ ...a, degenerate: $event })"
        />
        <LengthField
            label="Specks below"
            empty="keep"
            :value="a.specks_below"
            testid="specks"
            @change="change({ ...a, specks_below: $event })"
        />
        <PickLine />
    </template>
    <CheckRow
        v-if="adds"
        :value="adds.may_cross"
        label="May pass through the part, to be untangled after"
        testid="may-cross"
        @change="change({ ...adds, may_cross: $event })"
    />
</template>
