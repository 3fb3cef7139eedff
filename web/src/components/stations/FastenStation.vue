<script setup lang="ts">
// Bores, threads and inserts: what the part has of them, and the tools that make them.
import { useBench } from '../../stores/bench';
import FitPanel from '../fasten/FitPanel.vue';
import ThreadList from '../fasten/ThreadList.vue';
import OpenTool from '../OpenTool.vue';
import ProcessFields from '../ProcessFields.vue';
import ToolList from '../ToolList.vue';

const bench = useBench();
</script>

<template>
    <p v-if="!bench.part" class="soft">Bring a part in first.</p>
    <template v-else>
        <p v-if="bench.part.figures.state !== 'sealed'" class="mb-2" data-testid="fasten-summary">
            <b>{{ bench.part.name }}</b> is {{ bench.part.figures.reason }}. Bores and threads need a solid:
            seal it first.
        </p>
        <OpenTool>
            <ProcessFields />
            <ThreadList />
            <FitPanel />
            <ToolList station="fasten" />
        </OpenTool>
    </template>
</template>
