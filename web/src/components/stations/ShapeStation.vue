<script setup lang="ts">
// Bodies added, taken away, cut, placed and made.
import { useBench } from '../../stores/bench';
import OpenTool from '../OpenTool.vue';
import ToolList from '../ToolList.vue';

const bench = useBench();
</script>

<template>
    <p v-if="!bench.part" class="soft">Bring a part in first.</p>
    <template v-else>
        <p v-if="bench.part.figures.state !== 'sealed'" class="mb-2" data-testid="shape-summary">
            <b>{{ bench.part.name }}</b> is {{ bench.part.figures.reason }}. Union, difference and saw need
            solids; the other tools work on any part.
        </p>
        <OpenTool><ToolList station="shape" /></OpenTool>
    </template>
</template>
