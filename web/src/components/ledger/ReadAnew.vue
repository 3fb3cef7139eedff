<script setup lang="ts">
// A file read anew: exact surfaces with another chord, triangles with their groups or without; what was done to its parts follows.
import { computed, ref } from 'vue';
import type { Step } from '../../api/client';
import { useJob } from '../../stores/job';
import { useSteps } from '../../stores/steps';
import { isExact } from '../../text';

const props = defineProps<{ step: Step }>();
const jobs = useJob();
const steps = useSteps();
const was = props.step.action.kind === 'bring_in' ? props.step.action : null;
const exact = isExact(was?.file ?? '');
const chord = ref(String(was?.chord ?? 0.02));
const groups = ref(was?.groups ?? false);
const wrong = computed(() => {
    const value = Number(chord.value);
    return value >= 1e-5 && value <= 1000 ? '' : 'a length from 0.00001 mm to 1000 mm';
});

async function read() {
    if (!was || wrong.value) return;
    steps.reading = false;
    const action = exact ? { ...was, chord: Number(chord.value) } : { ...was, groups: groups.value };
    await jobs.edit({ edit: 'replace', step: props.step.number, action });
}
</script>

<template>
    <form class="write" @submit.prevent="read" @click.stop>
        <v-text-field
            v-if="exact"
            v-model="chord"
            label="Chord"
            suffix="mm"
            hint="How far triangles may stand off the exact surfaces of the file"
            persistent-hint
            :error-messages="wrong"
            data-testid="anew-chord"
        />
        <v-checkbox
            v-else
            v-model="groups"
            label="Faces end where colours or groups do"
            hint="What the file tells of its triangles by colours, materials or names"
            persistent-hint
            density="compact"
            data-testid="anew-groups"
        />
        <div class="d-flex ga-2">
            <v-btn
                size="small"
                variant="flat"
                color="primary"
                type="submit"
                :disabled="!!wrong"
                data-testid="read-anew"
                >Read anew</v-btn
            >
            <v-btn size="small" variant="outlined" @click="steps.reading = false">Cancel</v-btn>
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
