<script setup lang="ts">
// A thread by itself: a stud, a ring or a cap.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import { useBench } from '../../../stores/bench';
import { useJob } from '../../../stores/job';
import ChoiceRow from '../../fields/ChoiceRow.vue';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';
import ThreadFields from '../ThreadFields.vue';

const { action: a } = defineProps<{ action: Extract<Action, { kind: 'fasten.stud' }> }>();
const picks = usePicks();
const bench = useBench();
const jobs = useJob();
const whats = [
    { value: 'stud', title: 'Stud' },
    { value: 'ring', title: 'Ring' },
    { value: 'cap', title: 'Cap' },
];
const what = computed(() => (a.ring == null ? 'stud' : a.lid == null ? 'ring' : 'cap'));
function setWhat(to: string) {
    const wide = Math.max(10, ...(bench.part?.figures.size ?? []).slice(0, 1)) / 2;
    picks.change({
        ...a,
        ring: to === 'stud' ? null : (a.ring ?? Math.round(wide)),
        lid: to === 'cap' ? (a.lid ?? 2) : null,
    });
}
/** The counterpart of a thread there is: its size and hand, with nothing taken off. */
const counterparts = computed(() =>
    jobs.parts.flatMap((p) =>
        (p.threads ?? []).map((t) => ({
            title: `${p.name}: ${t.mark.name}`,
            value: `${p.id} ${t.step} ${t.mark.face}`,
            mark: t.mark,
        })),
    ),
);
function match(key: string) {
    const mark = counterparts.value.find((c) => c.value === key)?.mark;
    if (!mark) return;
    const thread = { ...mark.thread, allowance: { radial: 0, axial: 0 } };
    const inside = mark.gender === 'internal';
    const wide = Math.ceil(mark.radius * 2 + 8);
    picks.change({
        ...a,
        thread,
        length: Math.round(mark.length + (inside ? 5 : 0)),
        ring: inside ? null : wide,
        lid: null,
    });
}
const hidden = computed(() => [
    'thread',
    ...(a.ring == null ? ['ring'] : []),
    ...(a.lid == null ? ['lid'] : []),
]);
</script>

<template>
    <ChoiceRow label="What" :items="whats" :value="what" name="stud" @change="setWhat" />
    <v-select
        v-if="counterparts.length"
        class="mt-2"
        label="To go with"
        :items="counterparts"
        :model-value="null"
        data-testid="counterpart"
        @update:model-value="$event && match($event)"
    />
    <ThreadFields :thread="a.thread" @change="picks.change({ ...a, thread: $event })" />
    <StepFields :but="hidden" />
</template>
