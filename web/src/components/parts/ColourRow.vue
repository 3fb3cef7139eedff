<script setup lang="ts">
// Colours a part can have of its own.
import { ownColours } from '../../stores/parts';

/** Nothing is chosen where `value` is absent. */
defineProps<{ value?: string | null }>();
const emit = defineEmits<{ change: [to: string] }>();
</script>

<template>
    <div class="row" role="group" aria-label="Colour">
        <button
            v-for="c in ownColours"
            :key="c"
            type="button"
            class="swatch"
            :style="{ background: c }"
            :aria-pressed="value === c"
            :aria-label="`Colour ${c}`"
            :data-testid="`colour-${c}`"
            @click="emit('change', c)"
        />
        <button
            type="button"
            class="none"
            :aria-pressed="value === null || value === ''"
            data-testid="colour-none"
            @click="emit('change', '')"
        >
            none
        </button>
    </div>
</template>

<style scoped>
.row {
    display: flex;
    align-items: center;
    gap: 6px;
}
.swatch {
    width: 24px;
    height: 24px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    cursor: pointer;
}
[aria-pressed='true'] {
    outline: 2px solid rgb(var(--v-theme-primary));
    outline-offset: 1px;
}
.none {
    padding: 2px 8px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    font-size: 13px;
    cursor: pointer;
}
</style>
