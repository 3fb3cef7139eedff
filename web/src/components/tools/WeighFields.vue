<script setup lang="ts">
// The parameters of steps of Weigh: a liquid kept as a part, a pattern made larger.
import { computed } from 'vue';
import type { Action } from '../../api/client';
import { usePicks } from '../../stores/picks';
import ChoiceRow from './ChoiceRow.vue';
import LengthField from './LengthField.vue';
import XyzFields from './XyzFields.vue';

type Weigh = Extract<Action, { kind: 'weigh.fill' | 'weigh.scale_pattern' }>;
const { action: a } = defineProps<{ action: Weigh }>();
const picks = usePicks();
const even = computed(
    () => a.kind === 'weigh.scale_pattern' && a.shrinkage.every((s) => s === a.shrinkage[0]),
);
const ways = [
    { value: 'brim', title: 'To the brim' },
    { value: 'depth', title: 'To a depth' },
    { value: 'volume', title: 'With a volume' },
];
const way = computed(() =>
    a.kind !== 'weigh.fill' ? '' : a.to === 'brim' ? 'brim' : 'depth' in a.to ? 'depth' : 'volume',
);
function choose(to: string) {
    if (a.kind !== 'weigh.fill') return;
    picks.change({
        ...a,
        to: to === 'brim' ? 'brim' : to === 'depth' ? { depth: 10 } : { volume: 10_000 },
    });
}
</script>

<template>
    <template v-if="a.kind === 'weigh.fill'">
        <ChoiceRow label="How far" :items="ways" :value="way" name="fill-to" @change="choose" />
        <LengthField
            v-if="a.to !== 'brim' && 'depth' in a.to"
            label="Depth"
            :value="a.to.depth"
            testid="fill-depth"
            @change="picks.change({ ...a, to: { depth: $event! } })"
        />
        <LengthField
            v-if="a.to !== 'brim' && 'volume' in a.to"
            label="Volume"
            suffix="ml"
            :value="a.to.volume / 1000"
            testid="fill-volume"
            @change="picks.change({ ...a, to: { volume: $event! * 1000 } })"
        />
    </template>
    <template v-else>
        <LengthField
            v-if="even"
            label="Shrinkage of length"
            suffix="%"
            hint="Of what is cast, against its pattern"
            :value="a.shrinkage[0]"
            testid="shrinkage"
            @change="picks.change({ ...a, shrinkage: [$event!, $event!, $event!] })"
        />
        <XyzFields
            label="Along"
            :value="a.shrinkage"
            suffix="%"
            testid="shrinkage-along"
            @change="picks.change({ ...a, shrinkage: $event })"
        />
    </template>
</template>
