<script setup lang="ts">
// The resolution of a skin, and what it will cost, told before it is made.
import { ref, watch } from 'vue';
import { answer, api, type Action, type Schemas } from '../../api/client';
import { whole } from '../../format';
import { useBench } from '../../stores/bench';
import { usePicks } from '../../stores/picks';
import LengthField from './LengthField.vue';

const props = defineProps<{ action: Extract<Action, { kind: 'seal.wrap' }> }>();
const bench = useBench();
const picks = usePicks();
const cost = ref<Schemas['WrapForetold'] | null>(null);
watch(
    [() => props.action.resolution, () => bench.part?.mesh],
    async ([resolution, mesh]) => {
        if (!mesh) return;
        const params = { path: { mesh }, query: { resolution } };
        const got = await answer(api.GET('/api/v1/meshes/{mesh}/wrap-cost', { params })).catch(() => null);
        if (resolution === props.action.resolution) cost.value = got?.foretold ?? null;
    },
    { immediate: true },
);
const bytes = (b: number) => (b > 1e9 ? `${(b / 1e9).toFixed(1)} GB` : `${Math.ceil(b / 1e6)} MB`);
const seconds = (s: number) => (s < 1 ? 'under a second' : `about ${Math.ceil(s)} s`);
</script>

<template>
    <LengthField
        label="Resolution"
        :value="action.resolution"
        hint="The size of the cells the skin is drawn in; what is thinner is lost"
        testid="resolution"
        @change="picks.change({ ...action, resolution: $event ?? action.resolution })"
    />
    <p v-if="cost" class="soft mt-1" data-testid="wrap-cost">
        {{ cost.cells.join(' × ') }} cells, about
        {{ whole(Math.round(cost.triangles / 1000) * 1000 || cost.triangles) }} triangles,
        {{ bytes(cost.bytes) }} of memory, {{ seconds(cost.seconds) }}
    </p>
</template>
