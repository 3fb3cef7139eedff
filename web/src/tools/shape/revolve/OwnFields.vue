<script setup lang="ts">
// A turned body: its profile, the line it is turned about (upright or level through a place, or a line of the profile), the angle.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import BodyFields from '../../../board/BodyFields.vue';
import { useProfiles } from '../../../stores/profiles';
import ChoiceRow from '../../fields/ChoiceRow.vue';
import LengthField from '../../fields/LengthField.vue';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';

type Revolve = Extract<Action, { kind: 'shape.revolve' }>;
const { action: a } = defineProps<{ action: Revolve }>();
const picks = usePicks();
const profiles = useProfiles();
const way = computed(() => (a.axis.way[0] === 0 ? 'upright' : a.axis.way[1] === 0 ? 'level' : 'leaning'));
const ways = computed(() => [
    { value: 'upright', title: 'Upright' },
    { value: 'level', title: 'Level' },
    ...(way.value === 'leaning' ? [{ value: 'leaning', title: 'Leaning' }] : []),
]);
const turn = (to: string) =>
    to !== 'leaning' && picks.change({ ...a, axis: { ...a.axis, way: to === 'upright' ? [0, 1] : [1, 0] } });
/** Straight lines of the profile that can be the axis. */
const lines = computed(() =>
    (profiles.view?.curves ?? [])
        .filter((c) => c.points.length === 2)
        .slice(0, 200)
        .map((c) => ({ value: c.name, title: `Line ${c.name}` })),
);
function about(name: string) {
    const [from, to] = profiles.view?.curves.find((c) => c.name === name)?.points ?? [];
    if (from && to) picks.change({ ...a, axis: { at: from, way: [to[0]! - from[0]!, to[1]! - from[1]!] } });
}
</script>

<template>
    <BodyFields />
    <p class="small-caps mt-2">Turned about</p>
    <ChoiceRow
        label="The line it is turned about"
        :items="ways"
        :value="way"
        name="axis-way"
        @change="turn"
    />
    <LengthField
        v-if="way !== 'leaning'"
        :label="way === 'upright' ? 'At x' : 'At y'"
        signed
        :value="a.axis.at[way === 'upright' ? 0 : 1]"
        testid="axis-at"
        @change="
            picks.change({ ...a, axis: { ...a.axis, at: way === 'upright' ? [$event!, 0] : [0, $event!] } })
        "
    />
    <v-select
        v-if="lines.length"
        class="mt-2"
        label="Or about a line of the profile"
        :items="lines"
        data-testid="axis-line"
        @update:model-value="about"
    />
    <StepFields :but="['profile', 'regions', 'becomes', 'axis']" />
</template>
