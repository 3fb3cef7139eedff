<script setup lang="ts">
// The half page of the manual about a tool: what it does, when, what goes wrong, a recipe, and what stands beside it.
import { mdiContentCopy } from '@mdi/js';
import { computed, ref, shallowRef, watch } from 'vue';
import { manual, type Page } from '../manual';
import { useBench } from '../stores/bench';
import { useTools, type Tool } from '../stores/tools';
import type { StationKey } from '../text';

const bench = useBench();
const tools = useTools();
const page = shallowRef<Page | null>(null);
const copied = ref(false);
const open = computed({
    get: () => bench.dialog === 'help',
    set: (on) => {
        if (!on) bench.dialog = null;
    },
});
const tool = computed(() => tools.called(bench.help));
const beside = computed(() =>
    tools.all.filter((t) => t.group === tool.value?.group && t.key !== tool.value?.key),
);
watch(
    () => open.value && bench.help,
    async (key) => {
        copied.value = false;
        if (key) page.value = (await manual()).get(key) ?? null;
    },
);
function begin(t: Tool) {
    bench.dialog = null;
    bench.openStation(t.station as StationKey);
    void tools.start(t.key);
}
async function copy() {
    await navigator.clipboard.writeText(`{ "nimbet": 1, "steps": ${page.value?.recipe} }`);
    copied.value = true;
}
</script>

<template>
    <v-dialog v-model="open" max-width="620" aria-label="Manual">
        <v-card v-if="page" class="pa-4" data-testid="help-page">
            <p class="heading">{{ page.name }}</p>
            <p v-if="tool" class="soft mb-2">{{ tool.group }}</p>
            <img
                v-if="page.picture"
                class="picture"
                :src="page.picture"
                :alt="`${page.name}, before and after`"
            />
            <!-- eslint-disable-next-line vue/no-v-html -- our own pages, built in -->
            <div class="prose" v-html="page.prose" />
            <details v-if="page.recipe" class="mt-1">
                <summary>A recipe that does it{{ page.on && `, on ${page.on} of the demo` }}</summary>
                <pre>{{ page.recipe }}</pre>
                <v-btn size="small" variant="text" :prepend-icon="mdiContentCopy" @click="copy">{{
                    copied ? 'Copied' : 'Copy the recipe'
                }}</v-btn>
            </details>
            <p v-if="beside.length" class="mt-3">
                <span class="soft">Beside it: </span>
                <button
                    v-for="t in beside"
                    :key="t.key"
                    type="button"
                    class="other"
                    :data-testid="`help-${t.key}`"
                    @click="bench.help = t.key"
                >
                    {{ t.name }}
                </button>
            </p>
            <div class="d-flex ga-2 mt-3">
                <v-btn
                    v-if="tool && !tool.lacking"
                    variant="flat"
                    color="primary"
                    data-testid="help-begin"
                    @click="begin(tool)"
                    >Take it up</v-btn
                >
                <p v-else-if="tool" class="soft lacks">{{ tool.lacking }}</p>
                <v-btn variant="outlined" data-testid="help-close" @click="open = false">Close</v-btn>
            </div>
        </v-card>
    </v-dialog>
</template>

<style scoped>
.picture {
    display: block;
    max-width: 100%;
    margin-bottom: 8px;
    border-radius: 4px;
}
.prose :deep(p) {
    margin-bottom: 8px;
}
pre {
    max-height: 220px;
    overflow: auto;
    font-size: 12px;
    white-space: pre-wrap;
}
.other {
    margin-right: 10px;
    text-decoration: underline;
    cursor: pointer;
}
.lacks {
    align-self: center;
    margin-right: auto;
}
</style>
