<script setup lang="ts">
// The tools of a station that can be begun on the part.
import { useTools } from '../stores/tools';
import type { StationKey } from '../text';

defineProps<{ station: StationKey }>();
const tools = useTools();
</script>

<template>
    <button
        v-for="t in tools.fitting(station)"
        :key="t.key"
        type="button"
        class="tool"
        :data-testid="`tools-${t.key}`"
        @click="tools.start(t.key)"
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
