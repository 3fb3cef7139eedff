<script setup lang="ts">
// What people call a step, and what they note on it.
import { ref } from 'vue';
import type { Step } from '../../api/client';
import { useJob } from '../../stores/job';
import { useSteps } from '../../stores/steps';

const props = defineProps<{ step: Step }>();
const jobs = useJob();
const steps = useSteps();
const name = ref(props.step.name ?? '');
const note = ref(props.step.note ?? '');

async function keep() {
    steps.writing = false;
    await jobs.label(props.step.number, name.value, note.value);
}
</script>

<template>
    <form class="write" @submit.prevent="keep" @click.stop>
        <v-text-field v-model="name" label="Name" maxlength="200" data-testid="step-name" />
        <v-textarea v-model="note" label="Note" rows="2" maxlength="4000" data-testid="step-note" />
        <div class="d-flex ga-2">
            <v-btn size="small" variant="flat" color="primary" type="submit" data-testid="keep-name"
                >Keep</v-btn
            >
            <v-btn size="small" variant="outlined" @click="steps.writing = false">Cancel</v-btn>
        </div>
    </form>
</template>

<style scoped>
.write {
    display: grid;
    gap: 8px;
    margin: 8px 0;
}
</style>
