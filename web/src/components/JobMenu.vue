<script setup lang="ts">
import { mdiChevronDown, mdiContentCopy, mdiPlus } from '@mdi/js';
import { computed, ref } from 'vue';
import { units } from '../format';
import { useJob } from '../stores/job';
import LengthField from '../tools/fields/LengthField.vue';

const jobs = useJob();
const name = ref('');

/** Jobs at hand; the others are on their page. */
const recent = computed(() => jobs.jobs.filter((j) => !j.archived).slice(0, 8));
const copied = ref('');

async function copy() {
    const wanted = copied.value.trim();
    copied.value = '';
    if (wanted) await jobs.copy(wanted);
}
async function create() {
    const wanted = name.value.trim();
    if (!wanted) return;
    name.value = '';
    await jobs.create(wanted);
}

/** What figures can be shown in. */
const unitChoices = {
    length: ['mm', 'cm', 'in'],
    volume: ['mm³', 'ml', 'fl oz'],
    mass: ['g', 'oz', 'dwt', 'ct'],
};
</script>

<template>
    <v-menu :close-on-content-click="false">
        <template #activator="{ props }">
            <v-btn v-bind="props" class="heading" data-testid="job-name">
                {{ jobs.job?.name ?? 'Nimbet' }}<v-icon :icon="mdiChevronDown" end size="small" />
            </v-btn>
        </template>
        <v-card min-width="280">
            <v-list density="compact" aria-label="Jobs">
                <v-list-item
                    v-for="j in recent"
                    :key="j.id"
                    :active="j.id === jobs.job?.id"
                    :title="j.name"
                    @click="jobs.open(j.id)"
                />
                <v-list-item title="All jobs …" to="/jobs" data-testid="all-jobs" />
            </v-list>
            <div v-if="jobs.job" class="px-3 pb-3">
                <LengthField
                    label="Chord tolerance of this job"
                    hint="How far round faces of new bodies may be from true"
                    :value="jobs.job.setup.chord"
                    testid="job-chord"
                    @change="jobs.setUp({ chord: $event! })"
                />
            </div>
            <div class="px-3 pb-3 d-flex ga-2">
                <v-select
                    v-for="(list, what) in unitChoices"
                    :key="what"
                    :label="`${what[0]!.toUpperCase()}${what.slice(1)} in`"
                    :items="list"
                    :model-value="units[what]"
                    :data-testid="`unit-${what}`"
                    @update:model-value="(to: string) => ((units as Record<string, string>)[what] = to)"
                />
            </div>
            <div class="px-3 pb-3">
                <v-text-field
                    v-model="jobs.who"
                    label="Your name, kept on your steps"
                    maxlength="100"
                    data-testid="who"
                />
            </div>
            <form v-if="jobs.job" class="d-flex ga-2 pa-3 ruled-top" @submit.prevent="copy">
                <v-text-field
                    v-model="copied"
                    label="Copy of this job, called"
                    maxlength="200"
                    data-testid="copy-job"
                    @keydown.enter.stop.prevent="copy"
                />
                <v-btn
                    :icon="mdiContentCopy"
                    type="submit"
                    aria-label="Copy the job"
                    :disabled="!copied.trim()"
                />
            </form>
            <form class="d-flex ga-2 pa-3 ruled-top" @submit.prevent="create">
                <v-text-field
                    v-model="name"
                    label="New job"
                    maxlength="200"
                    data-testid="new-job"
                    @keydown.enter.stop.prevent="create"
                />
                <v-btn :icon="mdiPlus" type="submit" aria-label="Make the job" :disabled="!name.trim()" />
            </form>
        </v-card>
    </v-menu>
</template>
