<script setup lang="ts">
import { mdiKeyboardOutline, mdiMagnify, mdiRedo, mdiThemeLightDark, mdiUndo } from '@mdi/js';
import { useBench } from '../stores/bench';
import { useJob } from '../stores/job';
import JobMenu from './JobMenu.vue';
import PartsTray from './parts/PartsTray.vue';

const bench = useBench();
const jobs = useJob();
</script>

<template>
    <header class="bar">
        <JobMenu />
        <PartsTray class="tray" />
        <v-btn
            :icon="mdiUndo"
            size="small"
            :disabled="!jobs.job?.undo"
            aria-label="Undo (Ctrl z)"
            :title="jobs.job?.undo ? `Undo: ${jobs.job.undo} (Ctrl z)` : 'Nothing to undo'"
            data-testid="undo"
            @click="jobs.undo()"
        />
        <v-btn
            :icon="mdiRedo"
            size="small"
            :disabled="!jobs.job?.redo"
            aria-label="Redo (Ctrl Shift z)"
            :title="jobs.job?.redo ? `Redo: ${jobs.job.redo} (Ctrl Shift z)` : 'Nothing to redo'"
            data-testid="redo"
            @click="jobs.redo()"
        />
        <v-btn
            class="search"
            variant="outlined"
            size="small"
            data-testid="search"
            @click="bench.dialog = 'search'"
        >
            <v-icon :icon="mdiMagnify" start />Search<kbd class="ml-3">Ctrl k</kbd>
        </v-btn>
        <v-btn
            :icon="mdiThemeLightDark"
            size="small"
            aria-label="Light or dark"
            title="Light or dark"
            data-testid="theme"
            @click="bench.dark = !bench.dark"
        />
        <v-btn
            :icon="mdiKeyboardOutline"
            size="small"
            aria-label="Keys (?)"
            title="Keys (?)"
            @click="bench.dialog = 'keys'"
        />
    </header>
</template>

<style scoped>
.bar {
    display: flex;
    align-items: center;
    gap: 4px;
    padding: 0 8px;
    background: rgb(var(--v-theme-surface));
    border-bottom: 1px solid rgb(var(--v-theme-rule));
}
.tray {
    flex: 1;
    min-width: 0;
}
.search {
    border-color: rgb(var(--v-theme-rule));
}
</style>
