<script setup lang="ts">
import { computed } from 'vue';
import { useJob } from '../stores/job';

const jobs = useJob();
const open = computed({ get: () => !!jobs.refusal, set: (on) => !on && (jobs.refusal = null) });
/** Whose step undo would take back. */
const others = computed({ get: () => !!jobs.othersStep, set: (on) => !on && (jobs.othersStep = '') });
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
    <v-snackbar
        v-model="others"
        location="top"
        :timeout="-1"
        color="surface"
        role="alert"
        data-testid="others-step"
    >
        <span class="heading">The last step is not yours</span>
        <p>{{ jobs.othersStep }}</p>
        <template #actions>
            <v-btn data-testid="undo-anyway" @click="jobs.undo(true)">Undo it all the same</v-btn>
            <v-btn @click="others = false">Leave it</v-btn>
        </template>
    </v-snackbar>
</template>
