<script setup lang="ts">
// One parameter of the considered step, drawn as the core describes it.
import { computed } from 'vue';
import type { Xyz } from '../../rimRuns';
import { middlePlane, type Plane } from '../../planes';
import { useBench } from '../../stores/bench';
import { blank, chosen, fieldOf, fieldsOf, NO_PART, words, type Choice, type Field } from './describe';
import CheckRow from './CheckRow.vue';
import ChoiceRow from './ChoiceRow.vue';
import DirectionField from './DirectionField.vue';
import LengthField from './LengthField.vue';
import PartsField from './PartsField.vue';
import PlaneFields from './PlaneFields.vue';
import RimsField from './RimsField.vue';
import { useStepValues } from './stepValues';
import XyzFields from './XyzFields.vue';

const { field } = defineProps<{ field: Field }>();
const bench = useBench();
const { value, set, isFixed, counts } = useStepValues(() => field);
/** Parts are asked for by what they are for: a step may ask for several. */
const testid = computed(() => {
    const isDeep = field.path.length > 2 && (field.kind === 'part' || field.kind === 'parts');
    return (isDeep ? field.path[0]! : field.name).replaceAll('_', '-');
});
const described = computed(() => field.described);
const suffix = computed(() => described.value.unit ?? '');
const empty = computed(() => (field.optional ? (described.value.empty ?? 'none') : undefined));
const choice = computed(() =>
    field.kind === 'choice' ? chosen(field, value.value ?? described.value.default) : undefined,
);
/** Choices that can be made here, and the one that was made elsewhere. */
const begun = (c: Choice) => blank(c, middlePlane(bench.part?.figures ?? null));
const offered = computed(() => {
    const made = field.choices.filter((c) => c.value === choice.value?.value || begun(c) !== undefined);
    const none = field.optional ? [{ value: '', title: words(empty.value!) }] : [];
    return [...none, ...made.map((c) => ({ value: c.value, title: c.label }))];
});
function choose(to: string) {
    const made = field.choices.find((c) => c.value === to);
    set(made ? begun(made) : null);
}
/** What comes with the choice that is made. */
const inside = computed<Field[]>(() => {
    const held: Choice | undefined = choice.value;
    if (!held?.with) return [];
    const path = [...field.path, held.value];
    const own = fieldOf(held.value, path, held.with);
    return own.kind === 'group' ? fieldsOf(held.with, path) : [own];
});
/** Rims are chosen by their names. */
const byName = computed(
    () => field.kind === 'choice' && field.choices.some((c) => c.with?.items?.asks === 'rim'),
);
const flag = (v: unknown) => (v ?? described.value.default) as boolean | undefined;
const figure = (v: unknown) => (v ?? described.value.default) as number | null | undefined;
const way = (v: unknown) => (v ?? null) as Xyz | null;
const parts = (v: unknown) =>
    ([] as number[]).concat((v as number | number[] | null) ?? []).filter((n) => n !== NO_PART);
const xyz = (v: unknown) => (v ?? described.value.default ?? [0, 0, 0]) as Xyz;
</script>

<template>
    <CheckRow
        v-if="field.kind === 'flag'"
        :label="field.label"
        :value="flag(value)"
        :testid="testid"
        @change="set($event)"
    />
    <LengthField
        v-else-if="field.kind === 'figure'"
        :label="field.label"
        :value="figure(value)"
        :suffix="suffix"
        :empty="empty"
        :hint="described.hint"
        :limits="described"
        :testid="testid"
        @change="set($event)"
    />
    <XyzFields
        v-else-if="field.kind === 'xyz'"
        :label="field.label"
        :value="xyz(value)"
        :above="described.asks === 'size'"
        :suffix="suffix"
        :testid="testid"
        @change="set($event)"
    />
    <DirectionField
        v-else-if="field.kind === 'direction'"
        :label="field.label"
        :open="empty"
        :value="way(value)"
        :testid="testid"
        @change="set($event)"
    />
    <PlaneFields v-else-if="field.kind === 'plane'" :plane="value as Plane" @change="set($event)" />
    <PartsField
        v-else-if="field.kind === 'parts' || field.kind === 'part'"
        :label="field.label"
        :one="field.kind === 'part'"
        :value="parts(value)"
        :testid="testid"
        @change="set(field.kind === 'parts' ? $event : ($event[0] ?? (field.optional ? null : NO_PART)))"
    />
    <RimsField v-else-if="byName" :value="value" @change="set($event)" />
    <template v-else-if="field.kind === 'choice'">
        <p v-if="!isFixed" class="small-caps mt-2" aria-hidden="true">{{ field.label }}</p>
        <ChoiceRow
            v-if="!isFixed"
            :label="field.label"
            :items="offered"
            :value="choice?.value ?? ''"
            :name="testid"
            @change="choose"
        />
        <StepField v-for="f in inside.filter(counts)" :key="f.path.join('/')" :field="f" />
    </template>
    <template v-else-if="field.kind === 'group'">
        <StepField
            v-for="f in fieldsOf(described, field.path).filter(counts)"
            :key="f.path.join('/')"
            :field="f"
        />
    </template>
</template>
