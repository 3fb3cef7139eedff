<script setup lang="ts">
import type { Task } from '../api/client';

defineProps<{ task: Pick<Task, 'fraction' | 'doing' | 'state'>; what: string }>();
const emit = defineEmits<{ cancel: [] }>();
</script>

<template>
    <div class="my-2" role="status" data-testid="progress">
        <div class="d-flex align-center ga-2 mb-1">
            <span class="words">{{ what }}: {{ task.doing }}</span>
            <span class="figure">{{ Math.round(task.fraction * 100) }} %</span>
            <v-btn size="x-small" variant="outlined" data-testid="cancel-task" @click="emit('cancel')"
                >Cancel</v-btn
            >
        </div>
        <v-progress-linear :model-value="task.fraction * 100" color="primary" height="4" :aria-label="what" />
    </div>
</template>

<style scoped>
.words {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
}
</style>
