<script setup lang="ts">
// A few ways, one of them chosen.
defineProps<{
    label: string;
    items: readonly { value: string; title: string }[];
    value: string;
    name: string;
}>();
defineEmits<{ change: [value: string] }>();
</script>

<template>
    <v-radio-group
        inline
        hide-details
        density="compact"
        :model-value="value"
        :aria-label="label"
        @update:model-value="$emit('change', String($event))"
    >
        <v-radio
            v-for="i in items"
            :key="i.value"
            :label="i.title"
            :value="i.value"
            :data-testid="`${name}-${i.value}`"
        />
    </v-radio-group>
</template>
