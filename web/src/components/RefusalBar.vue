<script setup lang="ts">
import { computed } from 'vue';
import { useJob } from '../stores/job';

const jobs = useJob();
const open = computed({ get: () => !!jobs.refusal, set: (on) => !on && (jobs.refusal = null) });
/** What somebody else did in this job. */
const told = computed({ get: () => !!jobs.news, set: (on) => !on && (jobs.news = '') });
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
    <v-snackbar
        v-model="told"
        location="bottom"
        :timeout="6000"
        color="surface"
        role="status"
        data-testid="news"
    >
        {{ jobs.news }}
    </v-snackbar>
</template>
