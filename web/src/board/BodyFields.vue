<script setup lang="ts">
// Which profile a body is made of, which of its regions, and what becomes of the body.
import { computed, nextTick, onMounted } from 'vue';
import type { Action } from '../api/client';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import { useJob } from '../stores/job';
import { useProfiles } from '../stores/profiles';
import ChoiceRow from '../tools/fields/ChoiceRow.vue';
import { usePicks } from '../tools/picking/picks';

const profiles = useProfiles();
const picks = usePicks();
const bench = useBench();
const forecast = useForecast();
const jobs = useJob();
const step = computed(() => profiles.step);
const items = computed(() => profiles.drawn.map((p) => ({ value: p.id, title: p.name })));
const targets = computed(() =>
    jobs.parts.filter((p) => !p.figures.drawn).map((p) => ({ value: p.id, title: p.name })),
);
const chosen = computed(() => profiles.drawn.find((p) => p === profiles.part)?.id ?? null);
const ways = [
    { value: 'part', title: 'A part' },
    { value: 'added', title: 'Added' },
    { value: 'taken', title: 'Taken away' },
    { value: 'common', title: 'In common' },
];
function choose(id: number) {
    if (!step.value) return;
    const itself = id === bench.part?.id && (becomes.value ?? 'part') === 'part';
    const none = step.value.kind === 'shape.relief' ? { heights: [] } : { regions: [] };
    picks.change({ ...step.value, ...none, profile: itself ? null : id } as Action);
}
// Where no profile is meant yet it is the newest.
onMounted(() => {
    const newest = profiles.drawn.at(-1);
    if (newest && chosen.value === null && !step.value?.profile && !jobs.asOf) choose(newest.id);
});

/** What becomes of the body; of lettering that is told otherwise. */
const becomes = computed(() => (step.value && 'becomes' in step.value ? step.value.becomes : undefined));
/** What is put together with a part is done to that part, and names the profile. */
async function become(becomes: string, target?: number) {
    const [now, profile] = [step.value, chosen.value];
    if (!now) return;
    const title = forecast.title;
    const to = target ?? (bench.part?.figures.drawn ? targets.value[0]?.value : bench.part?.id);
    const action = { ...now, becomes, profile: becomes === 'part' ? now.profile : profile } as Action;
    if (becomes === 'part' || to === undefined || to === bench.part?.id) return picks.change(action);
    if (jobs.asOf?.reopened) return;
    bench.selectPart(to);
    await nextTick();
    picks.start(title, action);
}
const areas = computed(() => {
    const all = profiles.taken.map((n) => profiles.facts[n]?.area ?? 0);
    const sum = all.reduce((a, b) => a + b, 0);
    return `${all.length === 1 ? '1 region' : `${all.length} regions`}, ${Number(sum.toPrecision(5))} mm²`;
});
</script>

<template>
    <v-select
        v-if="items.length"
        class="mt-2"
        label="The profile"
        :items="items"
        :model-value="chosen"
        data-testid="the-profile"
        @update:model-value="choose"
    />
    <p v-else class="soft" data-testid="no-profile">
        There is no profile yet. Draw one first: Profile, at Shape.
    </p>
    <p v-if="profiles.facts.length && !profiles.heights.length" class="soft mt-1" data-testid="regions-taken">
        {{ areas }}. Click regions to take them or leave them out.
    </p>
    <slot />
    <ChoiceRow
        v-if="step?.kind !== 'shape.emboss'"
        label="What becomes of it"
        :items="ways"
        :value="becomes ?? 'part'"
        name="becomes"
        @change="become($event)"
    />
    <v-select
        v-if="becomes && becomes !== 'part'"
        class="mt-2"
        :label="becomes === 'added' ? 'To the part' : becomes === 'taken' ? 'From the part' : 'With the part'"
        :items="targets"
        :model-value="bench.part?.figures.drawn ? null : bench.part?.id"
        data-testid="body-target"
        @update:model-value="become(becomes, $event)"
    />
</template>
