<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Face } from '../api/client';
import { area } from '../format';
import { useBench } from '../stores/bench';
import { useMeshes } from '../stores/meshes';

const bench = useBench();
const meshes = useMeshes();
const face = ref<Face | null>(null);
watch(
    [() => bench.face, () => bench.part?.mesh],
    async ([id, mesh]) => {
        face.value = null;
        if (id === null || !mesh) return;
        const all = await meshes.facesOf(mesh).catch(() => []);
        if (id === bench.face) face.value = all.find((f) => f.id === id) ?? null;
    },
    { immediate: true },
);

/** The part that cut it, where one did. */
const cutter = computed(() => {
    const id = face.value?.id;
    return id === undefined ? undefined : bench.part?.cut.find((c) => id >= c.first && id < c.end);
});
</script>

<template>
    <p v-if="face" class="face" role="status" data-testid="face">
        <b>Face:</b> {{ face.text }} · <span class="figure">{{ area(face.area) }}</span>
        <template v-if="cutter"> · cut by {{ cutter.by }} in step {{ cutter.step }}</template>
    </p>
</template>

<style scoped>
.face {
    padding: 3px 12px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    background: rgb(var(--v-theme-surface));
    font-size: 13px;
}
</style>
