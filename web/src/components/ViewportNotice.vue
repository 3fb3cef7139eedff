<script setup lang="ts">
import { mdiTrayArrowDown } from '@mdi/js';
import type { Far } from '../api/watched';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import { useJob } from '../stores/job';
import { useTools } from '../stores/tools';
import ExampleList from './ExampleList.vue';

defineProps<{ loading: boolean; far: Far | null; failure: string | null; empty: boolean }>();
const jobs = useJob();
const bench = useBench();
const forecast = useForecast();
const tools = useTools();

function draw() {
    bench.openStation('shape');
    void tools.start('profile');
}
</script>

<template>
    <div class="notice">
        <div v-if="jobs.trouble" class="card" role="alert" data-testid="offline">
            <p class="heading">{{ jobs.trouble.title }}</p>
            <p>{{ jobs.trouble.detail }}</p>
            <p class="soft">Trying again every few seconds.</p>
        </div>
        <div v-else-if="failure" class="card" role="alert">
            <p class="heading">The part cannot be drawn</p>
            <p>{{ failure }}</p>
            <v-btn variant="outlined" size="small" @click="jobs.reload()">Try again</v-btn>
        </div>
        <div v-else-if="empty && !forecast.draft" class="card">
            <v-icon :icon="mdiTrayArrowDown" size="36" />
            <p class="heading">The bench is empty</p>
            <p>
                Drop a file here, or choose one: STL, OBJ, PLY, OFF, 3MF, glTF, STEP; outlines as DXF or SVG.
                Or begin with a drawing.
            </p>
            <div class="d-flex justify-center ga-2">
                <v-btn variant="outlined" size="small" @click="bench.openStation('bring')"
                    >Bring in a file</v-btn
                >
                <v-btn variant="outlined" size="small" data-testid="draw-first" @click="draw()"
                    >Draw a profile</v-btn
                >
            </div>
            <ExampleList class="mt-4" />
        </div>
        <p v-else-if="loading || jobs.loading" class="loading" role="status">
            {{ far?.doing ? `${far.doing[0]!.toUpperCase()}${far.doing.slice(1)}` : 'Drawing the part' }} …
            <span v-if="far" class="figure">{{ Math.round(far.fraction * 100) }} %</span>
        </p>
    </div>
</template>

<style scoped>
.notice {
    display: grid;
    place-items: center;
    pointer-events: none;
}
.card {
    max-width: 380px;
    padding: 20px;
    text-align: center;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 6px;
    background: rgb(var(--v-theme-surface));
    pointer-events: auto;
}
.card > * + * {
    margin-top: 8px;
}
.loading {
    padding: 4px 12px;
    border-radius: 4px;
    background: rgb(var(--v-theme-surface));
}
</style>
