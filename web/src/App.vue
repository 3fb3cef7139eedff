<script setup lang="ts">
import { onMounted, onUnmounted, watch } from 'vue';
import { useAddresses } from './addresses';
import { useTheme } from 'vuetify';
import FileDrop from './components/FileDrop.vue';
import GaugeBar from './components/GaugeBar.vue';
import HelpDialog from './components/HelpDialog.vue';
import JobsPage from './components/jobs/JobsPage.vue';
import KeysDialog from './components/KeysDialog.vue';
import PartMenu from './components/parts/PartMenu.vue';
import PartsList from './components/parts/PartsList.vue';
import RefusalBar from './components/RefusalBar.vue';
import RouteRail from './components/RouteRail.vue';
import SearchDialog from './components/SearchDialog.vue';
import TopBar from './components/TopBar.vue';
import ViewportPane from './components/ViewportPane.vue';
import WorksheetPane from './components/WorksheetPane.vue';
import { useKeys } from './keys';
import { useBench } from './stores/bench';
import { useJob } from './stores/job';

const jobs = useJob();
const bench = useBench();
const theme = useTheme();
useKeys();
const { begin, onJobs, lost } = useAddresses();

watch(
    () => bench.dark,
    (dark) => theme.change(dark ? 'night' : 'paper'),
    { immediate: true },
);

// A server that does not answer is asked again until it does.
let retry = 0;
onMounted(async () => {
    await begin();
    retry = window.setInterval(() => jobs.trouble && void begin(), 3000);
});
onUnmounted(() => window.clearInterval(retry));
</script>

<template>
    <v-app class="app">
        <TopBar class="top" :inert="onJobs" />
        <RouteRail class="rail" :inert="onJobs" />
        <ViewportPane class="view" :inert="onJobs" />
        <WorksheetPane class="sheet" :inert="onJobs" />
        <GaugeBar class="gauge" :inert="onJobs" />
        <JobsPage v-if="onJobs" :lost="lost" />
        <SearchDialog />
        <KeysDialog />
        <HelpDialog />
        <PartMenu />
        <PartsList />
        <FileDrop />
        <RefusalBar />
    </v-app>
</template>

<style scoped>
.app :deep(> .v-application__wrap) {
    display: grid;
    grid-template: var(--bar) minmax(0, 1fr) var(--gauge) / var(--rail) minmax(0, 1fr) var(--sheet);
    grid-template-areas: 'top top top' 'rail view sheet' 'gauge gauge gauge';
    height: 100vh;
    min-height: 0;
}
.top {
    grid-area: top;
}
.rail {
    grid-area: rail;
}
.view {
    grid-area: view;
}
.sheet {
    grid-area: sheet;
}
.gauge {
    grid-area: gauge;
}
@media (min-width: 1600px) {
    .app {
        --sheet: 420px;
        --rail: 176px;
    }
}
</style>
