<script setup lang="ts">
// The parameters of steps that make walls.
import { computed } from 'vue';
import type { Action } from '../../api/client';
import type { Xyz } from '../../rimRuns';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { usePicks } from '../../stores/picks';
import CheckRow from './CheckRow.vue';
import ChoiceRow from './ChoiceRow.vue';
import DirectionField from './DirectionField.vue';
import DrainFields from './DrainFields.vue';
import FaceWallFields from './FaceWallFields.vue';
import LengthField from './LengthField.vue';
import PickLine from './PickLine.vue';

type WallAction = Extract<Action, { kind: `wall.${string}` }>;
const { action: a } = defineProps<{ action: WallAction }>();
const picks = usePicks();
const bench = useBench();
const jobs = useJob();
const change = (action: Action) => picks.change(action);
const corners = [
    { value: 'sharp', title: 'Sharp corners' },
    { value: 'round', title: 'Round corners' },
];
const sides = [
    { value: 'out', title: 'Outside' },
    { value: 'in', title: 'Inside' },
    { value: 'both', title: 'Both evenly' },
    { value: 'two', title: 'Two amounts' },
];
const side = computed(() => {
    if (a.kind !== 'wall.thicken') return 'out';
    const [o, i] = [a.outward ?? 0, a.inward ?? 0];
    return !i ? 'out' : !o ? 'in' : o === i ? 'both' : 'two';
});
function setSide(to: string) {
    if (a.kind !== 'wall.thicken') return;
    const whole = (a.outward ?? 0) + (a.inward ?? 0);
    if (to === 'out') change({ ...a, outward: whole, inward: 0 });
    else if (to === 'in') change({ ...a, outward: 0, inward: whole });
    else if (to === 'both') change({ ...a, outward: whole / 2, inward: whole / 2 });
    else change({ ...a, outward: whole * 0.75, inward: whole * 0.25 });
}
/** A thickness with a sign goes to the other side. */
function setWhole(x: number | null) {
    if (a.kind !== 'wall.thicken' || !x) return;
    if (side.value === 'both') change({ ...a, outward: Math.abs(x) / 2, inward: Math.abs(x) / 2 });
    else if ((side.value === 'out') === x > 0) change({ ...a, outward: Math.abs(x), inward: 0 });
    else change({ ...a, outward: 0, inward: Math.abs(x) });
}
const rims = computed(() =>
    a.kind === 'wall.thicken' && typeof a.rims === 'object' && 'along' in a.rims
        ? (a.rims.along as Xyz)
        : null,
);
const others = computed(() =>
    jobs.parts.filter((p) => p.id !== bench.part?.id).map((p) => ({ title: p.name, value: p.id })),
);
/** A resolution to begin with: a fiftieth of the part, to one digit. */
const resolution = () =>
    Number((Math.hypot(...(bench.part?.figures.size ?? [50])) / 150).toPrecision(1)) || 0.5;
const sampled = computed(() => ('sampled' in a ? (a.sampled ?? null) : null));
</script>

<template>
    <template v-if="a.kind === 'wall.thicken'">
        <ChoiceRow label="Side" :items="sides" :value="side" name="side" @change="setSide" />
        <template v-if="side === 'two'">
            <LengthField
                label="Outside"
                :value="a.outward"
                testid="outward"
                @change="change({ ...a, outward: $event! })"
            />
            <LengthField
                label="Inside"
                :value="a.inward"
                testid="inward"
                @change="change({ ...a, inward: $event! })"
            />
        </template>
        <LengthField
            v-else
            label="Thickness"
            signed
            hint="A minus turns it to the other side"
            :value="(a.outward ?? 0) + (a.inward ?? 0)"
            testid="thickness"
            @change="setWhole"
        />
        <DirectionField
            label="Rims go"
            open="Square to the sheet"
            both-ways
            :value="rims"
            testid="rims"
            @change="change({ ...a, rims: $event ? { along: $event } : 'square' })"
        />
    </template>
    <template v-else-if="a.kind === 'wall.hollow'">
        <LengthField label="Wall" :value="a.wall" testid="wall" @change="change({ ...a, wall: $event! })" />
        <DrainFields :action="a" />
    </template>
    <template v-else-if="a.kind === 'wall.shell'">
        <LengthField label="Wall" :value="a.wall" testid="wall" @change="change({ ...a, wall: $event! })" />
        <CheckRow
            :value="a.outward"
            label="Outside the part, which becomes the space inside"
            testid="shell-outward"
            @change="change({ ...a, outward: $event })"
        />
        <FaceWallFields :action="a" />
    </template>
    <LengthField
        v-else-if="a.kind === 'wall.coat'"
        label="Thickness of the coat"
        :value="a.thickness"
        testid="thickness"
        @change="change({ ...a, thickness: $event! })"
    />
    <template v-else-if="a.kind === 'wall.grow'">
        <LengthField
            label="By (below 0 it shrinks)"
            signed
            :value="a.by"
            testid="by"
            @change="$event && change({ ...a, by: $event })"
        />
        <v-select
            class="mt-2"
            label="Less a core (empty: none)"
            clearable
            :items="others"
            :model-value="a.less ?? null"
            data-testid="less"
            @update:model-value="change({ ...a, less: $event ?? null })"
        />
        <CheckRow
            :value="a.largest"
            label="Drop all but the largest piece"
            testid="largest"
            @change="change({ ...a, largest: $event })"
        />
    </template>
    <LengthField
        v-else-if="a.kind === 'wall.even'"
        label="Wall"
        hint="The surface across is made anew at this distance"
        :value="a.wall"
        testid="wall"
        @change="change({ ...a, wall: $event! })"
    />
    <LengthField
        v-else
        label="Distance (below 0 it lies inside)"
        signed
        :value="a.distance"
        testid="distance"
        @change="$event && change({ ...a, distance: $event })"
    />
    <PickLine />
    <CheckRow
        v-if="a.kind === 'wall.thicken' || a.kind === 'wall.offset_sheet'"
        :value="a.run"
        label="With all faces that go on tangent"
        testid="run"
        @change="change({ ...a, run: $event })"
    />
    <CheckRow
        v-if="a.kind === 'wall.thicken'"
        :value="a.keep"
        label="Keep the sheet beside it"
        testid="keep"
        @change="change({ ...a, keep: $event })"
    />
    <template v-if="a.kind === 'wall.hollow' || a.kind === 'wall.grow'">
        <CheckRow
            :value="sampled != null"
            label="Sample on a grid: for scans rougher than the distance"
            testid="sampled"
            @change="change({ ...a, sampled: $event ? resolution() : null })"
        />
        <LengthField
            v-if="sampled != null"
            label="Resolution"
            :value="sampled"
            testid="resolution"
            @change="change({ ...a, sampled: $event })"
        />
    </template>
    <ChoiceRow
        v-if="sampled == null && 'corners' in a"
        label="Corners"
        :items="corners"
        :value="a.corners ?? 'sharp'"
        name="corners"
        @change="change({ ...a, corners: $event as 'sharp' | 'round' })"
    />
</template>
