<script setup lang="ts">
// How far a vessel is filled.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import ChoiceRow from '../../fields/ChoiceRow.vue';
import LengthField from '../../fields/LengthField.vue';
import { usePicks } from '../../picking/picks';

type Fill = Extract<Action, { kind: 'weigh.fill' }>;
const { action: a } = defineProps<{ action: Fill }>();
const picks = usePicks();
const ways = [
    { value: 'brim', title: 'To the brim' },
    { value: 'depth', title: 'To a depth' },
    { value: 'volume', title: 'With a volume' },
];
const way = computed(() => (a.to === 'brim' ? 'brim' : 'depth' in a.to ? 'depth' : 'volume'));
const put = (to: Fill['to']) => picks.change({ ...a, to });
const choose = (to: string) =>
    put(to === 'brim' ? 'brim' : to === 'depth' ? { depth: 10 } : { volume: 10_000 });
</script>

<template>
    <ChoiceRow label="How far" :items="ways" :value="way" name="fill-to" @change="choose" />
    <LengthField
        v-if="a.to !== 'brim' && 'depth' in a.to"
        label="Depth"
        :value="a.to.depth"
        testid="fill-depth"
        @change="put({ depth: $event! })"
    />
    <LengthField
        v-if="a.to !== 'brim' && 'volume' in a.to"
        label="Volume"
        suffix="ml"
        :value="a.to.volume / 1000"
        testid="fill-volume"
        @change="put({ volume: $event! * 1000 })"
    />
</template>
