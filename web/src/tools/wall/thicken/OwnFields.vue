<script setup lang="ts">
// On which side of a sheet its wall goes, and how thick it is.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import ChoiceRow from '../../fields/ChoiceRow.vue';
import DirectionField from '../../fields/DirectionField.vue';
import LengthField from '../../fields/LengthField.vue';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';
import type { Xyz } from '../../../rimRuns';

const { action: a } = defineProps<{ action: Extract<Action, { kind: 'wall.thicken' }> }>();
const picks = usePicks();
const sides = [
    { value: 'out', title: 'Outside' },
    { value: 'in', title: 'Inside' },
    { value: 'both', title: 'Both evenly' },
    { value: 'two', title: 'Two amounts' },
];
const side = computed(() => {
    const [o, i] = [a.outward ?? 0, a.inward ?? 0];
    return !i ? 'out' : !o ? 'in' : o === i ? 'both' : 'two';
});
const put = (outward: number, inward: number) => picks.change({ ...a, outward, inward });
function setSide(to: string) {
    const whole = (a.outward ?? 0) + (a.inward ?? 0);
    if (to === 'out') put(whole, 0);
    else if (to === 'in') put(0, whole);
    else if (to === 'both') put(whole / 2, whole / 2);
    else put(whole * 0.75, whole * 0.25);
}
/** A thickness with a sign goes to the other side. */
function setWhole(x: number | null) {
    if (!x) return;
    if (side.value === 'both') put(Math.abs(x) / 2, Math.abs(x) / 2);
    else if ((side.value === 'out') === x > 0) put(Math.abs(x), 0);
    else put(0, Math.abs(x));
}
const rims = computed(() => (typeof a.rims === 'object' && 'along' in a.rims ? (a.rims.along as Xyz) : null));
</script>

<template>
    <ChoiceRow label="Side" :items="sides" :value="side" name="side" @change="setSide" />
    <template v-if="side === 'two'">
        <LengthField
            label="Outside"
            :value="a.outward"
            testid="outward"
            @change="put($event!, a.inward ?? 0)"
        />
        <LengthField
            label="Inside"
            :value="a.inward"
            testid="inward"
            @change="put(a.outward ?? 0, $event!)"
        />
    </template>
    <LengthField
        v-else
        label="Thickness"
        :limits="{ not: { const: 0 } }"
        hint="A minus turns it to the other side"
        :value="(a.outward ?? 0) + (a.inward ?? 0)"
        testid="thickness"
        @change="setWhole"
    />
    <DirectionField
        label="Edge of the wall at rims"
        open="Square to the sheet"
        both-ways
        :value="rims"
        testid="rims"
        @change="picks.change({ ...a, rims: $event ? { along: $event } : 'square' })"
    />
    <StepFields :but="['outward', 'inward', 'rims']" />
</template>
