<script setup lang="ts">
// What a part is cut by, what stays, pegs.
import type { Action } from '../../../api/client';
import { usePicks } from '../../picking/picks';
import { middlePlane } from '../../../planes';
import { useBench } from '../../../stores/bench';
import CheckRow from '../../fields/CheckRow.vue';
import ChoiceRow from '../../fields/ChoiceRow.vue';
import LengthField from '../../fields/LengthField.vue';
import PartsField from '../../fields/PartsField.vue';
import PickLine from '../../fields/PickLine.vue';
import PlaneFields from '../../fields/PlaneFields.vue';

type Saw = Extract<Action, { kind: 'shape.saw' }>;
const { action: a } = defineProps<{ action: Saw }>();
const picks = usePicks();
const bench = useBench();
const change = (action: Saw) => picks.change(action);
const cutters = [
    { value: 'plane', title: 'Plane' },
    { value: 'sheet', title: 'Sheet' },
    { value: 'line', title: 'Drawn line' },
];
const sides = [
    { value: 'both', title: 'Keep both' },
    { value: 'front', title: 'Front' },
    { value: 'back', title: 'Back' },
];
function cutBy(kind: string) {
    const by: Saw['by'] =
        kind === 'plane'
            ? { plane: middlePlane(bench.part?.figures ?? null) }
            : kind === 'sheet'
              ? { sheet: 0 }
              : { line: { points: [], along: [0, 0, 0] } };
    change({ ...a, by, pegs: null });
}
</script>

<template>
    <ChoiceRow
        label="Cut by"
        :items="cutters"
        :value="Object.keys(a.by)[0]!"
        name="cutter"
        @change="cutBy($event)"
    />
    <PlaneFields
        v-if="'plane' in a.by"
        :plane="a.by.plane"
        @change="change({ ...a, by: { plane: $event } })"
    />
    <PartsField
        v-else-if="'sheet' in a.by"
        label="The sheet"
        one
        :value="a.by.sheet ? [a.by.sheet] : []"
        @change="change({ ...a, by: { sheet: $event[0] ?? 0 } })"
    />
    <PickLine />
    <ChoiceRow
        label="What stays"
        :items="sides"
        :value="a.keep ?? 'both'"
        name="keep"
        @change="change({ ...a, keep: $event as Saw['keep'] })"
    />
    <CheckRow
        label="Leave the cut open"
        :value="a.open"
        @change="change({ ...a, open: $event, pegs: null })"
    />
    <CheckRow
        v-if="'plane' in a.by"
        label="Pegs and sockets"
        :value="!!a.pegs"
        testid="pegs"
        @change="
            change({
                ...a,
                open: false,
                pegs: $event ? { count: 2, diameter: 4, length: 4, clearance: 0.2 } : null,
            })
        "
    />
    <div v-if="a.pegs" class="pegs">
        <LengthField
            label="Pegs"
            suffix=""
            :value="a.pegs.count"
            testid="peg-count"
            @change="change({ ...a, pegs: { ...a.pegs, count: Math.round($event!) } })"
        />
        <LengthField
            label="Diameter"
            :value="a.pegs.diameter"
            testid="peg-diameter"
            @change="change({ ...a, pegs: { ...a.pegs, diameter: $event! } })"
        />
        <LengthField
            label="Length"
            :value="a.pegs.length"
            @change="change({ ...a, pegs: { ...a.pegs, length: $event! } })"
        />
        <LengthField
            label="Clearance"
            signed
            :value="a.pegs.clearance"
            @change="change({ ...a, pegs: { ...a.pegs, clearance: $event! } })"
        />
    </div>
</template>

<style scoped>
.pegs {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 8px;
}
</style>
