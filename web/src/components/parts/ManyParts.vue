<script setup lang="ts">
// What is done to all marked parts at once, undone as one.
import { computed, ref } from 'vue';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { useParts } from '../../stores/parts';
import { useReleases } from '../../stores/releases';
import TaskProgress from '../TaskProgress.vue';
import ColourRow from './ColourRow.vue';

const props = defineProps<{ chosen: readonly number[] }>();
const jobs = useJob();
const bench = useBench();
const parts = useParts();
const releases = useReleases();
const group = ref('');
const material = ref<string | null>(null);
const unproved = computed(
    () => jobs.parts.filter((p) => props.chosen.includes(p.id) && p.figures.state !== 'sealed').length,
);
</script>

<template>
    <div class="many ruled-top" :class="{ idle: !chosen.length }" data-testid="many">
        <p>
            <b>{{ chosen.length }} marked</b>
        </p>
        <v-text-field
            v-model="group"
            label="Into group"
            list="groups-for-many"
            :disabled="!chosen.length"
            maxlength="80"
            data-testid="many-group"
            @keydown.enter="parts.group(chosen, group)"
        />
        <datalist id="groups-for-many"><option v-for="g in parts.groups" :key="g" :value="g" /></datalist>
        <v-autocomplete
            v-model="material"
            label="Material"
            :items="jobs.materials.map((k) => ({ value: k.key, title: k.name }))"
            :disabled="!chosen.length"
            data-testid="many-material"
            @update:model-value="$event && parts.material(chosen, $event)"
        />
        <ColourRow @change="(to) => parts.colour(chosen, to)" />
        <v-btn size="small" variant="outlined" :disabled="!chosen.length" @click="bench.pin(chosen)"
            >Show</v-btn
        >
        <v-btn
            size="small"
            variant="outlined"
            :disabled="!chosen.length"
            data-testid="many-hide"
            @click="bench.hide(chosen)"
            >Hide</v-btn
        >
        <v-btn
            size="small"
            variant="outlined"
            :disabled="!chosen.length"
            data-testid="many-duplicate"
            @click="parts.duplicate(chosen)"
            >Duplicate</v-btn
        >
        <v-btn
            size="small"
            variant="outlined"
            :disabled="!chosen.length || unproved > 0 || releases.running"
            :title="unproved ? `${unproved} of them are no proved solids` : ''"
            data-testid="many-release"
            @click="releases.several(chosen)"
            >Release</v-btn
        >
        <v-btn
            size="small"
            variant="outlined"
            :disabled="chosen.length < 2 || unproved > 0 || releases.running"
            title="All of them in one file; what is there several times stands in it once"
            data-testid="many-together"
            @click="releases.together(chosen)"
            >Release in one 3MF</v-btn
        >
        <v-btn
            size="small"
            variant="outlined"
            color="error"
            :disabled="!chosen.length"
            data-testid="many-delete"
            @click="parts.remove(chosen)"
            >Delete</v-btn
        >
    </div>
    <p v-if="unproved && chosen.length" class="soft">
        {{ unproved }} of those marked are no proved solids, and cannot be released.
    </p>
    <TaskProgress v-if="releases.task" :task="releases.task" what="Releasing" @cancel="releases.cancel()" />
    <p v-if="releases.told" role="status" data-testid="many-told">
        {{ releases.told }}
        <a v-if="releases.made" :href="`/api/v1/releases/${releases.made.id}/file`" data-testid="many-file">{{
            releases.made.sheet.file
        }}</a>
    </p>
</template>

<style scoped>
.many {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px;
    padding-top: 10px;
}
.many > .v-input {
    flex: 0 1 190px;
}
a {
    color: rgb(var(--v-theme-primary));
}
.idle {
    opacity: 0.6;
}
</style>
