<script setup lang="ts">
// The parameters of a step of Shape.
import { computed } from 'vue';
import type { Action } from '../../api/client';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { usePicks } from '../../stores/picks';
import BodyFields from './BodyFields.vue';
import ChoiceRow from './ChoiceRow.vue';
import LengthField from './LengthField.vue';
import PlaceFields from './PlaceFields.vue';
import XyzFields from './XyzFields.vue';

type ShapeAction = Extract<Action, { kind: `shape.${string}` }>;
const { action: a } = defineProps<{ action: ShapeAction }>();
const bench = useBench();
const jobs = useJob();
const picks = usePicks();
const others = computed(() => jobs.parts.filter((p) => p.id !== bench.part?.id));
const change = (action: Action) => picks.change(action);

const axes = (['x', 'y', 'z'] as const).map((value) => ({ value, title: value }));
const normals = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;
type AxisName = keyof typeof normals;
const axisOf = (n: readonly number[]) => (['x', 'y', 'z'] as const)[n.findIndex((x) => x !== 0)] ?? 'z';
const sides = [
    { value: 'both', title: 'Keep both' },
    { value: 'front', title: 'Front' },
    { value: 'back', title: 'Back' },
];
type Copies = Extract<Action, { kind: 'shape.repeat' }>['copies'];
const through = (c: Copies) => ('ring' in c ? c.ring.through : [0, 0, 0]);
/** Puts a figure into one place of three. */
const put = (at: readonly number[], axis: AxisName, x: number) =>
    at.map((old, i) => (i === 'xyz'.indexOf(axis) ? x : old)) as [number, number, number];
</script>

<template>
    <template v-if="'with' in a">
        <v-select
            class="mt-2"
            :label="a.kind === 'shape.difference' ? 'Parts taken away' : 'The other parts'"
            multiple
            chips
            :items="others.map((p) => ({ title: p.name, value: p.id }))"
            :model-value="a.with"
            data-testid="shape-with"
            @update:model-value="change({ ...a, with: $event })"
        />
        <v-checkbox
            v-if="a.kind !== 'shape.union'"
            :model-value="a.keep ?? false"
            label="Keep them as parts too"
            density="compact"
            hide-details
            data-testid="keep"
            @update:model-value="change({ ...a, keep: !!$event })"
        />
        <v-checkbox
            v-if="a.kind === 'shape.difference' && a.with.length === 1"
            :model-value="a.swap ?? false"
            label="The other way round"
            density="compact"
            hide-details
            data-testid="swap"
            @update:model-value="change({ ...a, swap: !!$event })"
        />
    </template>
    <template v-else-if="a.kind === 'shape.untangle'">
        <LengthField
            label="Keep what is wound round so often"
            empty="once"
            suffix="times"
            :value="a.level"
            testid="level"
            @change="change({ ...a, level: $event === null ? null : Math.round($event) })"
        />
    </template>
    <template v-else-if="a.kind === 'shape.saw'">
        <ChoiceRow
            label="The plane is square to"
            :items="axes"
            :value="axisOf(a.normal)"
            name="axis"
            @change="change({ ...a, normal: [...normals[$event as AxisName]] as [number, number, number] })"
        />
        <LengthField
            :label="`At ${axisOf(a.normal)}`"
            signed
            :value="a.at['xyz'.indexOf(axisOf(a.normal))]"
            testid="at"
            @change="change({ ...a, at: put(a.at, axisOf(a.normal), $event!) })"
        />
        <ChoiceRow
            label="What stays"
            :items="sides"
            :value="a.keep ?? 'both'"
            name="keep"
            @change="change({ ...a, keep: $event as typeof a.keep })"
        />
        <v-checkbox
            :model-value="a.open ?? false"
            label="Leave the cut open"
            density="compact"
            hide-details
            @update:model-value="change({ ...a, open: !!$event, pegs: null })"
        />
        <v-checkbox
            :model-value="!!a.pegs"
            label="Pegs and sockets"
            density="compact"
            hide-details
            data-testid="pegs"
            @update:model-value="
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
    <template v-else-if="a.kind === 'shape.place'"><PlaceFields :action="a" /></template>
    <template v-else-if="a.kind === 'shape.mirror'">
        <ChoiceRow
            label="The plane is square to"
            :items="axes"
            :value="a.axis"
            name="axis"
            @change="change({ ...a, axis: $event as AxisName })"
        />
        <LengthField
            :label="`At ${a.axis}`"
            signed
            :value="a.at"
            testid="at"
            @change="change({ ...a, at: $event! })"
        />
        <v-checkbox
            :model-value="a.join ?? false"
            label="Join both halves"
            density="compact"
            hide-details
            data-testid="join"
            @update:model-value="change({ ...a, join: !!$event })"
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
    <template v-else-if="a.kind === 'shape.repeat'">
        <ChoiceRow
            label="Where"
            :items="[
                { value: 'row', title: 'In a row' },
                { value: 'ring', title: 'In a ring' },
            ]"
            :value="'row' in a.copies ? 'row' : 'ring'"
            name="copies"
            @change="
                change({
                    ...a,
                    copies:
                        $event === 'row'
                            ? { row: { step: [10, 0, 0] } }
                            : { ring: { axis: 'z', through: [0, 0, 0] } },
                })
            "
        />
        <XyzFields
            v-if="'row' in a.copies"
            label="Step"
            :value="a.copies.row.step"
            @change="change({ ...a, copies: { row: { step: $event } } })"
        />
        <template v-else>
            <ChoiceRow
                label="About"
                :items="axes"
                :value="a.copies.ring.axis"
                name="axis"
                @change="
                    change({
                        ...a,
                        copies: { ring: { axis: $event as AxisName, through: through(a.copies) } },
                    })
                "
            />
            <XyzFields
                label="Through"
                :value="a.copies.ring.through ?? [0, 0, 0]"
                @change="
                    change({
                        ...a,
                        copies: {
                            ring: { axis: 'ring' in a.copies ? a.copies.ring.axis : 'z', through: $event },
                        },
                    })
                "
            />
        </template>
        <LengthField
            label="How many in all"
            suffix=""
            :value="a.count"
            testid="count"
            @change="change({ ...a, count: Math.round($event!) })"
        />
        <v-checkbox
            :model-value="a.join ?? false"
            label="Unite them"
            density="compact"
            hide-details
            @update:model-value="change({ ...a, join: !!$event })"
        />
    </template>
    <template v-else-if="a.kind === 'shape.body'"><BodyFields :action="a" /></template>
</template>

<style scoped>
.pegs {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 8px;
}
</style>
