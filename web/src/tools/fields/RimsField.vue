<script setup lang="ts">
// Rims of the part, by their names; all where none is chosen.
import { computed } from 'vue';
import type { Schemas } from '../../api/client';
import { useBench } from '../../stores/bench';

type Rims = NonNullable<Schemas['Operation'] & { kind: 'seal.cover_rim' }>['rims'];
const props = defineProps<{ value: unknown }>();
const emit = defineEmits<{ change: [rims: Rims] }>();
const bench = useBench();
const rims = computed(() => (bench.examination?.rims ?? []).filter((r) => r.closed));
const held = computed(() => {
    const rims = props.value as Rims | undefined;
    return typeof rims === 'object' ? rims.picked : [];
});
const names = computed(() =>
    held.value.flatMap(
        (p) => rims.value.find((r) => r.pick.near.every((x, i) => x === p.near[i]))?.name ?? [],
    ),
);
/** Picked rims that are not there any more. */
const gone = computed(() => held.value.length - names.value.length);
const pick = (chosen: string[]) =>
    emit(
        'change',
        chosen.length
            ? { picked: rims.value.filter((r) => chosen.includes(r.name)).map((r) => r.pick) }
            : 'all',
    );
</script>

<template>
    <v-select
        class="mt-2"
        :label="
            gone
                ? `${gone} picked before ${gone === 1 ? 'is' : 'are'} gone; pick again`
                : 'Rims (none chosen: all)'
        "
        multiple
        chips
        :items="rims.map((r) => r.name)"
        :model-value="names"
        data-testid="rims"
        @update:model-value="pick"
    />
</template>
