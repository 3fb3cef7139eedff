<script setup lang="ts">
// An outline to be filled: edges, a section, or the silhouette.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import { useBench } from '../../../stores/bench';
import { usePicks } from '../../picking/picks';
import ChoiceRow from '../../fields/ChoiceRow.vue';
import LengthField from '../../fields/LengthField.vue';
import StepFields from '../../fields/StepFields.vue';

type Fill = Extract<Action, { kind: 'seal.fill_outline' }>;
const props = defineProps<{ action: Fill }>();
const bench = useBench();
const picks = usePicks();
const ways = [
    { value: 'edges', title: 'Edges' },
    { value: 'section', title: 'Section' },
    { value: 'silhouette', title: 'Silhouette' },
];
const axes = [
    { value: '0', title: 'Along x' },
    { value: '1', title: 'Along y' },
    { value: '2', title: 'Along z' },
];
const way = computed(() => Object.keys(props.action.outline)[0]!);
const unit = (axis: number) => [0, 1, 2].map((k) => (k === axis ? 1 : 0));
const plane = computed(() => {
    const o = props.action.outline;
    const [direction, at] =
        'section' in o
            ? [o.section.normal, o.section.at]
            : 'silhouette' in o
              ? [o.silhouette.along, o.silhouette.at]
              : [unit(2), [0, 0, 0]];
    const axis = direction.findIndex((x) => x !== 0);
    return { axis, at: at[axis]! };
});
/** The middle of the part along an axis; its lower end for a silhouette. */
function usual(axis: number, share: number) {
    const f = bench.part?.figures;
    return f ? Number((f.least[axis]! + f.size[axis]! * share).toPrecision(4)) : 0;
}
function set(kind: string, axis: number, at: number) {
    const place = unit(axis).map((x) => x * at);
    const outline =
        kind === 'edges'
            ? { edges: [] }
            : kind === 'section'
              ? { section: { at: place, normal: unit(axis) } }
              : { silhouette: { at: place, along: unit(axis).map((x) => -x) } };
    picks.change({ ...props.action, outline } as Fill);
}
const share = (kind: string) => (kind === 'section' ? 0.5 : 0);
</script>

<template>
    <ChoiceRow
        label="What the outline is"
        :items="ways"
        :value="way"
        name="outline"
        @change="set($event, 2, usual(2, share($event)))"
    />
    <template v-if="way !== 'edges'">
        <ChoiceRow
            label="Direction"
            :items="axes"
            :value="String(plane.axis)"
            name="axis"
            @change="set(way, Number($event), usual(Number($event), share(way)))"
        />
        <LengthField
            :label="way === 'section' ? 'The plane cuts at' : 'The face is made at'"
            :value="plane.at"
            signed
            testid="plane-at"
            @change="set(way, plane.axis, $event ?? 0)"
        />
    </template>
    <StepFields :but="['outline']" />
</template>
