<script setup lang="ts">
// All jobs of the house: opened, begun, tidied; files dropped here become a job of their own.
import { mdiPlus, mdiRestore } from '@mdi/js';
import { computed, onMounted, ref } from 'vue';
import { useDeletedJobs, lastDay } from '../../stores/deletedJobs';
import { useJob } from '../../stores/job';
import { useJobList } from '../../stores/jobList';
import { useWalk } from '../../stores/walk';
import JobCard from './JobCard.vue';

const { lost } = defineProps<{ lost: string }>();
const jobs = useJob();
const list = useJobList();
const walk = useWalk();
const deleted = useDeletedJobs();
const name = ref('');
const text = ref('');
const archive = ref(false);
const shown = computed(() =>
    jobs.jobs.filter(
        (j) => j.archived === archive.value && j.name.toLowerCase().includes(text.value.trim().toLowerCase()),
    ),
);
const archived = computed(() => jobs.jobs.filter((j) => j.archived).length);
onMounted(deleted.load);

async function create() {
    const wanted = name.value.trim();
    if (!wanted) return;
    name.value = '';
    await jobs.create(wanted);
}
</script>

<template>
    <main class="page" data-testid="jobs-page">
        <header>
            <h1 class="heading">Jobs</h1>
            <v-text-field
                v-if="jobs.jobs.length > 4"
                v-model="text"
                class="find"
                label="Name"
                data-testid="jobs-search"
            />
            <form class="new" @submit.prevent="create">
                <v-text-field v-model="name" label="New job, called" maxlength="200" data-testid="jobs-new" />
                <v-btn
                    type="submit"
                    color="primary"
                    variant="flat"
                    :prepend-icon="mdiPlus"
                    :disabled="!name.trim()"
                    data-testid="jobs-create"
                    >Begin</v-btn
                >
            </form>
        </header>
        <p v-if="lost" role="alert" class="lost" data-testid="lost">{{ lost }}</p>
        <p v-if="jobs.trouble" role="alert" class="lost">
            {{ jobs.trouble.title }}: {{ jobs.trouble.detail }} Trying again every few seconds.
        </p>
        <p class="soft">
            Drop files anywhere here: they become a job of their own. STL, OBJ, PLY, OFF, 3MF, glTF, STEP;
            outlines as DXF or SVG.
        </p>
        <ul v-if="shown.length" class="jobs" aria-label="Jobs">
            <JobCard
                v-for="j in shown"
                :key="`${j.id} ${j.revision}`"
                :entry="j"
                @open="jobs.open(j.id)"
                @rename="list.change(j.id, { name: $event })"
                @copy="list.copy(j.id, j.name)"
                @archive="list.change(j.id, { archived: $event })"
                @remove="deleted.remove(j.id)"
            />
        </ul>
        <p v-else class="soft empty">
            {{
                archive
                    ? 'Nothing is in the archive.'
                    : text
                      ? 'No job is called that.'
                      : 'There is no job yet.'
            }}
        </p>
        <div class="below">
            <v-btn
                variant="outlined"
                size="small"
                :loading="list.making"
                data-testid="try-demo"
                @click="list.tryDemo()"
                >Try the demo: made-up parts with all that can be wrong</v-btn
            >
            <v-btn
                variant="text"
                size="small"
                :disabled="list.making"
                data-testid="first-walk"
                @click="walk.start()"
                >First walk: two minutes along the route</v-btn
            >
            <v-btn
                v-if="archived || archive"
                variant="text"
                size="small"
                data-testid="archive"
                @click="archive = !archive"
                >{{ archive ? 'Jobs at hand' : `Archive (${archived})` }}</v-btn
            >
        </div>
        <section v-if="deleted.list.length" aria-label="Deleted jobs">
            <p class="small-caps">Deleted</p>
            <p v-for="j in deleted.list" :key="j.id" class="gone" :data-testid="`deleted-${j.name}`">
                {{ j.name }} <span class="soft">can be brought back until {{ lastDay(j) }}</span>
                <v-btn
                    :icon="mdiRestore"
                    size="x-small"
                    variant="text"
                    :aria-label="`Bring ${j.name} back`"
                    :data-testid="`bring-back-${j.name}`"
                    @click="deleted.bringBack(j.id)"
                />
            </p>
        </section>
    </main>
</template>

<style scoped>
.page {
    position: fixed;
    inset: 0;
    z-index: 10;
    overflow: auto;
    padding: 24px 32px;
    background: rgb(var(--v-theme-background));
}
.page > * + * {
    margin-top: 14px;
}
header {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 16px;
}
h1 {
    font-size: 26px;
    margin-right: auto;
}
.find {
    flex: 0 1 220px;
}
.new {
    display: flex;
    align-items: center;
    gap: 8px;
}
.new > .v-input {
    width: 240px;
}
.jobs {
    display: flex;
    flex-wrap: wrap;
    gap: 16px;
    list-style: none;
}
.empty {
    padding: 24px 0;
}
.below {
    display: flex;
    gap: 10px;
}
.lost {
    padding: 8px 12px;
    border-left: 3px solid rgb(var(--v-theme-error));
    background: rgb(var(--v-theme-surface));
}
.gone {
    display: flex;
    align-items: center;
    gap: 8px;
}
</style>
