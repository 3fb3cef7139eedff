<script setup lang="ts">
// Recipes that are shipped, to begin with on the empty bench.
import { onMounted, ref } from 'vue';
import { api, answer, type Schemas } from '../api/client';
import { useBringIn } from '../stores/bringIn';

const bringIn = useBringIn();
const examples = ref<readonly Schemas['ExampleView'][]>([]);
onMounted(async () => {
    // Without them the bench works as well.
    examples.value = await answer(api.GET('/api/v1/examples')).catch(() => []);
});
</script>

<template>
    <div v-if="examples.length" class="examples">
        <p class="small-caps">Or see how something was made</p>
        <button
            v-for="e in examples"
            :key="e.key"
            type="button"
            class="example ruled-top"
            :disabled="!!bringIn.begun"
            :data-testid="`example-${e.key}`"
            @click="bringIn.begin(e)"
        >
            <b>{{ e.name }}</b>
            <span class="soft">{{ bringIn.begun?.key === e.key ? bringIn.begun.doing : e.what }}</span>
        </button>
    </div>
</template>

<style scoped>
.examples {
    text-align: left;
}
.example {
    display: block;
    width: 100%;
    padding: 6px 2px;
    text-align: left;
    cursor: pointer;
}
.example span {
    display: block;
    font-size: 13px;
}
.example:hover:not(:disabled) b {
    text-decoration: underline;
}
</style>
