<script setup lang="ts">
// What a step is done to: all of it, tangles, or what is picked.
import { computed } from 'vue';
import type { Action } from '../../api/client';
import { usePicks } from '../../stores/picks';
import ChoiceRow from './ChoiceRow.vue';
import LengthField from './LengthField.vue';
import PickLine from './PickLine.vue';

type WithWhat = Extract<Action, { kind: 'seal.turn' | 'seal.smooth' | 'seal.lift_out' | 'seal.re_skin' }>;
const props = defineProps<{ action: WithWhat }>();
const picks = usePicks();
const ways = {
    'seal.turn': [
        { value: 'part', title: 'The part' },
        { value: 'shells', title: 'Shells' },
        { value: 'faces', title: 'Faces' },
    ],
    'seal.smooth': [
        { value: 'all', title: 'All' },
        { value: 'faces', title: 'Faces' },
        { value: 'brush', title: 'Brush' },
    ],
    'seal.lift_out': [
        { value: 'tangles', title: 'Tangles' },
        { value: 'faces', title: 'Faces' },
        { value: 'brush', title: 'Brush' },
    ],
    'seal.re_skin': [
        { value: 'tangles', title: 'Tangles' },
        { value: 'faces', title: 'Faces' },
        { value: 'brush', title: 'Brush' },
    ],
};
const way = computed(() => {
    const { what } = props.action;
    if (typeof what === 'string') return what;
    // One tangle, from its finding: it counts as tangles here.
    return Object.keys(what)[0] === 'tangle' ? 'tangles' : Object.keys(what)[0]!;
});
const choose = (to: string) =>
    picks.change({
        ...props.action,
        what: to === 'shells' || to === 'faces' || to === 'brush' ? { [to]: [] } : to,
    } as Action);
</script>

<template>
    <ChoiceRow label="What" :items="ways[action.kind]" :value="way" name="what" @change="choose" />
    <LengthField
        v-if="way === 'brush'"
        label="Radius of the brush"
        :value="picks.brush"
        testid="brush"
        @change="picks.brush = $event ?? picks.brush"
    />
    <PickLine />
</template>
