<script setup lang="ts">
// The tools of a station that can be begun on the part.
import { useBench } from '../stores/bench';
import { usePicks } from '../stores/picks';
import type { StationKey } from '../text';
import { toolsFor } from '../tools';

defineProps<{ station: StationKey }>();
const bench = useBench();
const picks = usePicks();
</script>

<template>
    <button
        v-for="t in toolsFor(bench.examination, station)"
        :key="t.key"
        type="button"
        class="tool"
        :data-testid="`tools-${t.key}`"
        @click="picks.start(t.name, t.action(bench.examination))"
    >
        <span class="heading">{{ t.name }}</span><span class="soft">{{ t.hint }}</span>
    </button>
</template>

<style scoped>
.tool {
    display: flex;
    flex-direction: column;
    width: 100%;
    padding: 6px 4px;
    text-align: left;
    cursor: pointer;
}
.tool:hover {
    background: rgb(var(--v-theme-background));
}
</style>
