<script setup lang="ts">
// What was proved of a part or a file: claims with their evidence.
import { mdiCheckCircleOutline, mdiCloseCircleOutline } from '@mdi/js';
import type { Check } from '../api/client';

defineProps<{ checks: readonly Check[] }>();
</script>

<template>
    <ul>
        <li v-for="c in checks" :key="c.claim" :class="{ fails: !c.holds }">
            <v-icon
                :icon="c.holds ? mdiCheckCircleOutline : mdiCloseCircleOutline"
                :color="c.holds ? 'success' : 'error'"
                size="17"
                :aria-label="c.holds ? 'holds' : 'fails'"
            />
            <span>
                {{ c.claim }}<span class="figure evidence">{{ c.evidence }}</span>
            </span>
        </li>
    </ul>
</template>

<style scoped>
ul {
    list-style: none;
}
li {
    display: grid;
    grid-template-columns: 24px 1fr;
    padding: 5px 0;
    border-top: 1px solid rgb(var(--v-theme-rule));
    font-size: 13px;
}
.fails {
    font-weight: 600;
}
.evidence {
    display: block;
    font-weight: 400;
    font-size: 12px;
    opacity: 0.85;
}
</style>
