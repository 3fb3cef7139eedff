<script setup lang="ts">
import { computed } from 'vue';
import { useJob } from '../stores/job';

const jobs = useJob();
const open = computed({ get: () => !!jobs.refusal, set: (on) => !on && (jobs.refusal = null) });
</script>

<template>
    <v-snackbar
        v-model="open"
        location="top"
        :timeout="9000"
        color="surface"
        role="alert"
        data-testid="refusal"
    >
        <span class="heading">{{ jobs.refusal?.title }}</span>
        <p>{{ jobs.refusal?.detail }}</p>
        <template #actions><v-btn @click="open = false">Close</v-btn></template>
    </v-snackbar>
</template>
