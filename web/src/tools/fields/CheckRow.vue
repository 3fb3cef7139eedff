<script setup lang="ts">
// Something that is so or not.
defineProps<{ label: string; value?: boolean | null; testid?: string }>();
defineEmits<{ change: [on: boolean] }>();
</script>

<template>
    <v-checkbox
        :model-value="value ?? false"
        :label="label"
        density="compact"
        hide-details
        :data-testid="testid"
        @update:model-value="$emit('change', !!$event)"
    />
</template>
