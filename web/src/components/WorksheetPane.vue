<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench';
import { useJob } from '../stores/job';
import { useForecast } from '../stores/forecast';
import { stations } from '../text';
import LedgerTab from './LedgerTab.vue';
import BringInStation from './stations/BringInStation.vue';
import FastenStation from './stations/FastenStation.vue';
import ReleaseStation from './stations/ReleaseStation.vue';
import SealStation from './stations/SealStation.vue';
import ShapeStation from './stations/ShapeStation.vue';
import WallStation from './stations/WallStation.vue';
import WeighStation from './stations/WeighStation.vue';

const bench = useBench();
const jobs = useJob();
const forecast = useForecast();
const nameOf = (key: string) => stations.find((s) => s.key === key)!.name;
const here = computed(() => stations.find((s) => s.key === bench.station)!);
const sheet = computed(
    () =>
        ({
            bring: BringInStation,
            shape: ShapeStation,
            seal: SealStation,
            wall: WallStation,
            weigh: WeighStation,
            fasten: FastenStation,
            release: ReleaseStation,
        })[bench.station],
);
</script>

<template>
    <aside class="sheet" aria-label="Worksheet">
        <div class="tabs" role="tablist">
            <button
                type="button"
                role="tab"
                :aria-selected="bench.tab === 'station'"
                data-testid="station-tab"
                @click="bench.tab = 'station'"
            >
                {{ here.name }}
            </button>
            <button
                type="button"
                role="tab"
                :aria-selected="bench.tab === 'ledger'"
                data-testid="ledger-tab"
                @click="bench.tab = 'ledger'"
            >
                Ledger <span class="figure">{{ jobs.job?.cursor ?? 0 }}</span>
            </button>
        </div>
        <div
            v-if="forecast.draft && !forecast.inSight"
            class="elsewhere"
            role="status"
            data-testid="open-tool"
        >
            <span>{{ forecast.title }} is open at {{ nameOf(forecast.station) }}.</span>
            <v-btn size="small" variant="outlined" @click="bench.openStation(forecast.station)"
                >Back to it</v-btn
            >
        </div>
        <div class="content" role="tabpanel">
            <component :is="sheet" v-if="bench.tab === 'station'" />
            <LedgerTab v-else />
        </div>
    </aside>
</template>

<style scoped>
.elsewhere {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
    padding: 6px 12px;
    font-size: 13px;
    border-bottom: 1px solid rgb(var(--v-theme-rule));
    background: rgb(var(--v-theme-background));
}
.sheet {
    display: flex;
    flex-direction: column;
    min-height: 0;
    background: rgb(var(--v-theme-surface));
    border-left: 1px solid rgb(var(--v-theme-rule));
}
.tabs {
    display: flex;
    flex: none;
    border-bottom: 1px solid rgb(var(--v-theme-rule));
}
.tabs button {
    padding: 9px 16px 7px;
    font-family: 'Barlow Semi Condensed', sans-serif;
    font-weight: 600;
    font-size: 15px;
    border-bottom: 2px solid transparent;
    cursor: pointer;
}
.tabs button[aria-selected='true'] {
    border-bottom-color: rgb(var(--v-theme-primary));
}
.content {
    flex: 1;
    min-height: 0;
    overflow-y: auto;
    padding: 12px;
}
</style>
