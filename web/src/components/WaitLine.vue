<script setup lang="ts">
// Something that is being worked out: what, how far, and how to stop it; or that it was stopped.
import type { Far } from '../api/watched';

defineProps<{ what: string; far: Far | null; stopped: boolean }>();
const emit = defineEmits<{ stop: []; again: [] }>();
</script>

<template>
    <p class="soft wait" role="status" data-testid="wait">
        <template v-if="stopped">
            {{ what }}: stopped.
            <button type="button" class="link" @click="emit('again')">Try again</button>
        </template>
        <template v-else>
            {{ what }} …
            <template v-if="far">
                <span class="figure">{{ Math.round(far.fraction * 100) }} %</span>
                <button type="button" class="link" data-testid="wait-stop" @click="emit('stop')">Stop</button>
            </template>
        </template>
    </p>
</template>

<style scoped>
.wait {
    display: flex;
    gap: 8px;
}
.link {
    color: rgb(var(--v-theme-primary));
    text-decoration: underline;
    cursor: pointer;
}
</style>
