<script setup lang="ts">
// Bodies added, taken away, cut, placed and made.
import { useBench } from '../../stores/bench';
import OpenTool from '../OpenTool.vue';
import ToolList from '../ToolList.vue';

const bench = useBench();
const fileOf = (format: string) => `/api/v1/meshes/${bench.part?.mesh}/profile/${format}`;
</script>

<template>
    <p v-if="!bench.part" class="mb-2" data-testid="shape-empty">
        The bench is empty: draw a profile, or begin with a body.
    </p>
    <template v-else>
        <p v-if="bench.part.figures.wire" class="mb-2" data-testid="shape-wire">
            <b>{{ bench.part.name }}</b> is a wire, lines in space: the tools that go along a path come first.
        </p>
        <p v-else-if="bench.part.figures.drawn" class="mb-2" data-testid="shape-profile">
            <b>{{ bench.part.name }}</b> is a profile: the tools that make bodies of one come first. A double
            click on it opens its drawing. As a file:
            <a
                v-for="f in ['svg', 'dxf']"
                :key="f"
                class="file"
                :href="fileOf(f)"
                :data-testid="`profile-${f}`"
                >{{ f.toUpperCase() }}</a
            >
        </p>
        <p v-else-if="bench.part.figures.state !== 'sealed'" class="mb-2" data-testid="shape-summary">
            <b>{{ bench.part.name }}</b> is {{ bench.part.figures.reason }}. Union, difference and saw need
            solids; the other tools work on any part.
        </p>
    </template>
    <OpenTool><ToolList station="shape" /></OpenTool>
</template>

<style scoped>
.file {
    margin-left: 6px;
    color: inherit;
}
</style>
