<script setup lang="ts">
// The parameters of a step of Shape.
import type { Action } from '../../api/client';
import { usePicks } from '../../stores/picks';
import BaseFields from './BaseFields.vue';
import BodyFields from './BodyFields.vue';
import ChamberFields from './ChamberFields.vue';
import CheckRow from './CheckRow.vue';
import LengthField from './LengthField.vue';
import PartsField from './PartsField.vue';
import PickLine from './PickLine.vue';
import PlaceFields from './PlaceFields.vue';
import PlaneFields from './PlaneFields.vue';
import RepeatFields from './RepeatFields.vue';
import SawFields from './SawFields.vue';

type ShapeAction = Extract<Action, { kind: `shape.${string}` }>;
const { action: a } = defineProps<{ action: ShapeAction }>();
const picks = usePicks();
const change = (action: Action) => picks.change(action);
</script>

<template>
    <template v-if="a.kind === 'shape.chambers'"><ChamberFields :action="a" /></template>
    <template v-else-if="'with' in a">
        <PartsField
            :label="a.kind === 'shape.difference' ? 'Parts taken away' : 'The other parts'"
            :value="a.with"
            @change="change({ ...a, with: $event })"
        />
        <CheckRow
            v-if="'keep' in a || a.kind === 'shape.difference' || a.kind === 'shape.intersection'"
            label="Keep them as parts too"
            :value="'keep' in a ? a.keep : false"
            testid="keep"
            @change="change({ ...a, keep: $event } as Action)"
        />
        <CheckRow
            v-if="a.kind === 'shape.difference' && a.with.length === 1"
            label="The other way round"
            :value="a.swap"
            testid="swap"
            @change="change({ ...a, swap: $event })"
        />
    </template>
    <LengthField
        v-else-if="a.kind === 'shape.untangle'"
        label="Keep what is wound round so often"
        empty="once"
        suffix="times"
        :value="a.level"
        testid="level"
        @change="change({ ...a, level: $event === null ? null : Math.round($event) })"
    />
    <template v-else-if="a.kind === 'shape.saw'"><SawFields :action="a" /></template>
    <template v-else-if="a.kind === 'shape.place'"><PlaceFields :action="a" /></template>
    <template v-else-if="a.kind === 'shape.mirror'">
        <PlaneFields :plane="a.across" @change="change({ ...a, across: $event })" />
        <PickLine />
        <CheckRow
            label="Join both halves"
            :value="a.join"
            testid="join"
            @change="change({ ...a, join: $event })"
        />
        <LengthField
            v-if="a.join"
            label="Reach"
            signed
            hint="How far naked edges may lie from each other"
            :value="a.reach"
            testid="reach"
            @change="change({ ...a, reach: $event! })"
        />
    </template>
    <template v-else-if="a.kind === 'shape.repeat'"><RepeatFields :action="a" /></template>
    <template v-else-if="a.kind === 'shape.body'"><BodyFields :action="a" /></template>
    <template v-else-if="a.kind === 'shape.base'"><BaseFields :action="a" /></template>
    <LengthField
        v-else-if="a.kind === 'shape.brace'"
        label="Radius of rods and beads"
        :value="a.radius"
        testid="radius"
        @change="change({ ...a, radius: $event! })"
    />
</template>
