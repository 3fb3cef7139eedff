<script setup lang="ts">
// The measures of a body to work with.
import type { Action } from '../../api/client';
import { usePicks } from '../../stores/picks';
import CheckRow from './CheckRow.vue';
import LengthField from './LengthField.vue';
import XyzFields from './XyzFields.vue';

type AddBody = Extract<Action, { kind: 'shape.body' }>;
const { action: a } = defineProps<{ action: AddBody }>();
const picks = usePicks();
const shape = (body: AddBody['body']) => picks.change({ ...a, body });
</script>

<template>
    <template v-if="'block' in a.body">
        <XyzFields
            label="Size"
            above
            testid="size"
            :value="a.body.block.size"
            @change="'block' in a.body && shape({ block: { ...a.body.block, size: $event } })"
        />
        <LengthField
            label="Radius of its edges"
            signed
            :value="a.body.block.rounded ?? 0"
            testid="rounded"
            @change="'block' in a.body && shape({ block: { ...a.body.block, rounded: $event! } })"
        />
        <CheckRow
            v-if="a.body.block.rounded"
            label="All edges, not only the upright ones"
            :value="a.body.block.all_edges"
            testid="all-edges"
            @change="'block' in a.body && shape({ block: { ...a.body.block, all_edges: $event } })"
        />
    </template>
    <template v-else-if="'drum' in a.body">
        <LengthField
            label="Diameter"
            :value="a.body.drum.diameter"
            testid="diameter"
            @change="'drum' in a.body && shape({ drum: { ...a.body.drum, diameter: $event! } })"
        />
        <LengthField
            label="Diameter at the top"
            empty="the same"
            signed
            :value="a.body.drum.top"
            @change="'drum' in a.body && shape({ drum: { ...a.body.drum, top: $event } })"
        />
        <LengthField
            label="Height"
            :value="a.body.drum.height"
            testid="height"
            @change="'drum' in a.body && shape({ drum: { ...a.body.drum, height: $event! } })"
        />
        <LengthField
            label="Bore"
            signed
            :value="a.body.drum.bore ?? 0"
            @change="'drum' in a.body && shape({ drum: { ...a.body.drum, bore: $event! } })"
        />
    </template>
    <LengthField
        v-else-if="'ball' in a.body"
        label="Diameter"
        :value="a.body.ball.diameter"
        testid="diameter"
        @change="shape({ ball: { diameter: $event! } })"
    />
    <template v-else-if="'ring' in a.body">
        <LengthField
            label="Diameter of the middle line"
            :value="a.body.ring.diameter"
            @change="'ring' in a.body && shape({ ring: { ...a.body.ring, diameter: $event! } })"
        />
        <LengthField
            label="Thickness"
            :value="a.body.ring.thickness"
            @change="'ring' in a.body && shape({ ring: { ...a.body.ring, thickness: $event! } })"
        />
    </template>
    <XyzFields
        v-else-if="'wedge' in a.body"
        label="Size"
        above
        :value="a.body.wedge.size"
        @change="shape({ wedge: { size: $event } })"
    />
    <XyzFields
        label="At"
        :value="a.at ?? [0, 0, 0]"
        testid="place"
        @change="picks.change({ ...a, at: $event })"
    />
    <LengthField
        v-if="!('wedge' in a.body) && !('block' in a.body && !a.body.block.rounded)"
        label="Chord tolerance"
        :value="a.chord"
        @change="picks.change({ ...a, chord: $event! })"
    />
</template>
