<script setup lang="ts">
// A job on the jobs page: what it looks like, how its parts stand, when it was changed and by whom.
import {
    mdiArchiveArrowDownOutline,
    mdiArchiveArrowUpOutline,
    mdiContentCopy,
    mdiDeleteOutline,
    mdiPencilOutline,
} from '@mdi/js';
import { computed, nextTick, onMounted, onUnmounted, ref } from 'vue';
import { answer, api, type Part, type Schemas } from '../../api/client';
import { states } from '../../text';
import { portrait } from '../../viewport/portrait';

const { entry } = defineProps<{ entry: Schemas['JobEntry'] }>();
const emit = defineEmits<{
    open: [];
    rename: [name: string];
    copy: [];
    archive: [on: boolean];
    remove: [];
}>();
/** A picture of more parts than this tells nothing. */
const PICTURED = 1;
const parts = ref<readonly Part[] | null>(null);
const picture = ref<string | null>(null);
const renaming = ref(false);
const name = ref('');
const field = ref<HTMLInputElement>();
const card = ref<HTMLElement>();

/** Looked at when it comes into sight. */
let watching: IntersectionObserver | null = null;
onMounted(() => {
    watching = new IntersectionObserver((seen) => {
        if (!seen.some((s) => s.isIntersecting)) return;
        watching?.disconnect();
        void look();
    });
    watching.observe(card.value!);
});
onUnmounted(() => watching?.disconnect());

async function look() {
    const params = { path: { job: entry.id } };
    const job = await answer(api.GET('/api/v1/jobs/{job}', { params })).catch(() => null);
    if (!job) return;
    parts.value = job.parts;
    const shown = [...job.parts]
        .filter((p) => p.figures.triangles > 0)
        .sort((a, b) => b.figures.triangles - a.figures.triangles)
        .slice(0, PICTURED);
    if (shown.length)
        picture.value = await portrait(shown.map((p) => ({ mesh: p.mesh, triangles: p.figures.triangles })));
}

const stands = computed(() => {
    const all = parts.value ?? [];
    return (['sealed', 'open', 'tangled', 'flipped'] as const).flatMap((state) => {
        const n = all.filter((p) => p.figures.state === state).length;
        return n ? [{ state, n, look: states[state] }] : [];
    });
});
const when = computed(() =>
    new Date(entry.at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' }),
);

async function begin() {
    name.value = entry.name;
    renaming.value = true;
    await nextTick();
    field.value?.select();
}
function end() {
    const wanted = name.value.trim();
    renaming.value = false;
    if (wanted && wanted !== entry.name) emit('rename', wanted);
}
</script>

<template>
    <li ref="card" class="job" :data-testid="`job-${entry.name}`">
        <button type="button" class="open" :aria-label="`Open ${entry.name}`" @click="emit('open')">
            <img v-if="picture" :src="picture" alt="" width="264" height="150" />
            <span v-else class="blank">{{ parts && !parts.length ? 'No part yet' : '' }}</span>
        </button>
        <form v-if="renaming" class="name" @submit.prevent="end">
            <input
                ref="field"
                v-model="name"
                maxlength="200"
                aria-label="Name of the job"
                data-testid="job-rename"
                @keydown.esc.stop="renaming = false"
                @blur="end"
            />
        </form>
        <button v-else type="button" class="name heading" @click="emit('open')">{{ entry.name }}</button>
        <p class="soft stands">
            <template v-if="parts">
                {{ parts.length }} {{ parts.length === 1 ? 'part' : 'parts' }}
                <span v-for="s in stands" :key="s.state" class="state">
                    <v-icon :icon="s.look.icon" :color="s.look.colour" size="15" /> {{ s.n }}
                    {{ s.look.word }}
                </span>
            </template>
        </p>
        <p class="soft">{{ [entry.who, when].filter(Boolean).join(', ') }}</p>
        <div class="acts">
            <v-btn
                :icon="mdiPencilOutline"
                size="x-small"
                variant="text"
                :aria-label="`Rename ${entry.name}`"
                title="Rename"
                :data-testid="`rename-job-${entry.name}`"
                @click="begin"
            />
            <v-btn
                :icon="mdiContentCopy"
                size="x-small"
                variant="text"
                :aria-label="`Copy ${entry.name}`"
                title="Copy"
                :data-testid="`copy-job-${entry.name}`"
                @click="emit('copy')"
            />
            <v-btn
                :icon="entry.archived ? mdiArchiveArrowUpOutline : mdiArchiveArrowDownOutline"
                size="x-small"
                variant="text"
                :aria-label="
                    entry.archived
                        ? `Take ${entry.name} out of the archive`
                        : `Put ${entry.name} into the archive`
                "
                :title="entry.archived ? 'Out of the archive' : 'Into the archive'"
                :data-testid="`archive-${entry.name}`"
                @click="emit('archive', !entry.archived)"
            />
            <v-btn
                :icon="mdiDeleteOutline"
                size="x-small"
                variant="text"
                :aria-label="`Delete ${entry.name}`"
                title="Delete; it can be brought back"
                :data-testid="`delete-${entry.name}`"
                @click="emit('remove')"
            />
        </div>
    </li>
</template>

<style scoped>
.job {
    display: flex;
    flex-direction: column;
    width: 290px;
    padding: 12px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 6px;
    background: rgb(var(--v-theme-surface));
}
.open {
    height: 150px;
    border-radius: 4px;
    background: rgb(var(--v-theme-background));
    cursor: pointer;
}
.blank {
    display: grid;
    place-items: center;
    height: 100%;
    opacity: 0.7;
}
.name {
    margin-top: 10px;
    text-align: left;
    cursor: pointer;
    overflow-wrap: anywhere;
}
.name input {
    width: 100%;
    padding: 1px 6px;
    border: 1px solid rgb(var(--v-theme-primary));
    border-radius: 3px;
}
.stands {
    min-height: 22px;
    font-size: 13px;
}
.state {
    margin-left: 8px;
    white-space: nowrap;
}
.soft {
    font-size: 13px;
}
.acts {
    display: flex;
    justify-content: flex-end;
    gap: 2px;
    margin-top: auto;
}
</style>
