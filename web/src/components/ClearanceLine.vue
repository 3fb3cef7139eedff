<script setup lang="ts">
// How far the part stands off another, with where; both places are ringed in the viewport.
import { computed, ref, watch } from 'vue';
import { answer, api } from '../api/client';
import * as f from '../format';
import { useBench } from '../stores/bench';
import { useJob } from '../stores/job';
import { useWalls } from '../stores/walls';

const bench = useBench();
const jobs = useJob();
const walls = useWalls();
const other = ref<number | null>(null);
const told = ref('');
const others = computed(() =>
    jobs.parts.filter((p) => p.id !== bench.part?.id).map((p) => ({ title: p.name, value: p.id })),
);
watch([other, () => bench.part?.mesh, () => jobs.parts], async () => {
    told.value = '';
    walls.between = null;
    const [a, b] = [bench.part?.mesh, jobs.parts.find((p) => p.id === other.value)?.mesh];
    if (!a || !b) return;
    bench.pin([other.value!]);
    told.value = 'Measuring …';
    const params = { path: { mesh: a, other: b } };
    const got = await answer(api.GET('/api/v1/meshes/{mesh}/clearance/{other}', { params })).catch(
        () => null,
    );
    if (a !== bench.part?.mesh) return;
    if (got?.least == null) told.value = 'None: one of them is empty';
    else if (got.least === 0) told.value = 'They touch or overlap';
    else told.value = `They clear each other by ${f.millimetres(got.least)}`;
    walls.between = got?.from && got.to ? [got.from, got.to] : null;
});
</script>

<template>
    <v-select
        v-if="others.length"
        class="mt-2"
        label="Clearance to"
        clearable
        :items="others"
        :model-value="other"
        data-testid="clearance-to"
        @update:model-value="other = $event"
    />
    <p v-if="told" role="status" data-testid="clearance">{{ told }}</p>
</template>
