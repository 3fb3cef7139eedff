<script setup lang="ts">
// The outline of an opening, a corner a line, about its place.
import { ref, watch } from 'vue';

const props = defineProps<{ outline: readonly (readonly number[])[] }>();
const emit = defineEmits<{ change: [outline: [number, number][]] }>();
const text = ref('');
const wrong = ref('');
const written = () => props.outline.map((p) => p.join('  ')).join('\n');
watch(
    () => props.outline,
    () => (text.value = written()),
    { immediate: true },
);
function read() {
    const lines = text.value
        .split('\n')
        .map((l) => l.trim())
        .filter(Boolean);
    const corners = lines.map((l) => l.split(/[\s;]+/).map((x) => Number(x.replace(',', '.'))));
    const bad = corners.findIndex((c) => c.length !== 2 || c.some((x) => !Number.isFinite(x)));
    wrong.value =
        bad >= 0
            ? `Line ${bad + 1}: two figures are needed`
            : lines.length < 3
              ? 'Three corners or more'
              : '';
    if (!wrong.value && text.value.trim() !== written()) emit('change', corners as [number, number][]);
}
</script>

<template>
    <v-textarea
        v-model="text"
        class="mt-2 figure"
        label="Corners in mm: x  y"
        rows="4"
        :error-messages="wrong"
        data-testid="outline"
        @change="read"
        @blur="read"
    />
</template>
