<script setup lang="ts">
// The parameters of steps that make bores and threads.
import { computed, ref, watch } from 'vue';
import { answer, api, type Action, type Schemas } from '../../api/client';
import type { Xyz } from '../../rimRuns';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { usePicks } from '../../stores/picks';
import CheckRow from '../tools/CheckRow.vue';
import ChoiceRow from '../tools/ChoiceRow.vue';
import DirectionField from '../tools/DirectionField.vue';
import LengthField from '../tools/LengthField.vue';
import PickLine from '../tools/PickLine.vue';
import XyzFields from '../tools/XyzFields.vue';
import BoreFields from './BoreFields.vue';
import ThreadFields from './ThreadFields.vue';

type FastenAction = Extract<Action, { kind: `fasten.${string}` }>;
const { action: a } = defineProps<{ action: FastenAction }>();
const picks = usePicks();
const bench = useBench();
const jobs = useJob();
const change = (action: Action) => picks.change(action);

/** The sizes that fit the picked wall, none of which is taken by itself. */
const suggested = ref<readonly Schemas['Size'][] | undefined>();
const measured = ref<number | null>(null);
const picked = computed(() => (a.kind === 'fasten.thread' ? (a.faces[0] ?? null) : null));
watch(
    picked,
    async (pick) => {
        suggested.value = undefined;
        const surface = pick && 'surface' in pick ? pick.surface : null;
        if (surface?.kind !== 'cylinder') return;
        measured.value = surface.radius * 2;
        const query = { diameter: measured.value, pin: !surface.hollow };
        const got = await answer(api.GET('/api/v1/threads/sizes', { params: { query } })).catch(() => null);
        if (picked.value === pick) suggested.value = got?.sizes;
    },
    { immediate: true },
);
const whats = [
    { value: 'stud', title: 'Stud' },
    { value: 'ring', title: 'Ring' },
    { value: 'cap', title: 'Cap' },
];
const what = computed(() =>
    a.kind !== 'fasten.stud' || a.ring == null ? 'stud' : a.lid == null ? 'ring' : 'cap',
);
function setWhat(to: string) {
    if (a.kind !== 'fasten.stud') return;
    const wide = Math.max(10, ...(bench.part?.figures.size ?? []).slice(0, 1)) / 2;
    change({
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
    if (!mark || a.kind !== 'fasten.stud') return;
    const thread = { ...mark.thread, allowance: { radial: 0, axial: 0 } };
    const inside = mark.gender === 'internal';
    const wide = Math.ceil(mark.radius * 2 + 8);
    change({
        ...a,
        thread,
        length: Math.round(mark.length + (inside ? 5 : 0)),
        ring: inside ? null : wide,
        lid: null,
    });
}
</script>

<template>
    <BoreFields v-if="a.kind === 'fasten.bore'" :action="a" />
    <template v-else-if="a.kind === 'fasten.thread'">
        <PickLine />
        <ThreadFields
            :thread="a.thread"
            :suggested="suggested"
            :measured="measured"
            @change="change({ ...a, thread: $event })"
        />
        <LengthField
            label="Length"
            empty="all of it"
            :value="a.length"
            testid="length"
            @change="change({ ...a, length: $event })"
        />
        <CheckRow
            :value="a.lead_in"
            label="Lead-ins at open ends"
            testid="lead-ins"
            @change="change({ ...a, lead_in: $event })"
        />
        <CheckRow
            :value="a.groove"
            label="A groove before the shoulder of a pin"
            testid="groove"
            @change="change({ ...a, groove: $event })"
        />
        <CheckRow
            :value="a.other_end"
            label="From the other end"
            testid="other-end"
            @change="change({ ...a, other_end: $event })"
        />
        <CheckRow
            :value="a.marked"
            label="Only marked here; cut at release"
            testid="marked"
            @change="change({ ...a, marked: $event })"
        />
    </template>
    <template v-else-if="a.kind === 'fasten.stud'">
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
        <ThreadFields :thread="a.thread" @change="change({ ...a, thread: $event })" />
        <LengthField
            label="Length"
            :value="a.length"
            testid="length"
            @change="change({ ...a, length: $event! })"
        />
        <LengthField
            v-if="a.ring != null"
            label="Outer diameter"
            :value="a.ring"
            testid="ring"
            @change="change({ ...a, ring: $event! })"
        />
        <LengthField
            v-if="a.lid != null"
            label="Lid"
            :value="a.lid"
            testid="lid"
            @change="change({ ...a, lid: $event! })"
        />
        <DirectionField
            label="Stands"
            :value="(a.along as Xyz | undefined) ?? [0, 0, 1]"
            testid="along"
            @change="change({ ...a, along: $event! })"
        />
        <XyzFields label="At" :value="a.at ?? [0, 0, 0]" testid="at" @change="change({ ...a, at: $event })" />
        <CheckRow
            :value="a.marked"
            label="Only marked here; cut at release"
            testid="marked"
            @change="change({ ...a, marked: $event })"
        />
    </template>
    <template v-else>
        <PickLine />
        <CheckRow
            v-if="a.kind === 'fasten.plug'"
            :value="a.beyond"
            label="Also what goes on along the same axis"
            testid="beyond"
            @change="change({ ...a, beyond: $event })"
        />
        <LengthField
            v-else
            label="New diameter"
            :value="a.diameter"
            testid="diameter"
            @change="change({ ...a, diameter: $event! })"
        />
    </template>
</template>
