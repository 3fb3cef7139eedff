<script setup lang="ts">
// How thick the part is, where it is thin, and the tools that make walls.
import { computed } from 'vue';
import * as f from '../../format';
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import { useJob } from '../../stores/job';
import { useWalls } from '../../stores/walls';
import AppliedNote from '../AppliedNote.vue';
import ClearanceLine from '../ClearanceLine.vue';
import ForecastPanel from '../ForecastPanel.vue';
import ToolFields from '../ToolFields.vue';
import ToolList from '../ToolList.vue';
import CheckRow from '../tools/CheckRow.vue';
import LengthField from '../tools/LengthField.vue';
import WallSpread from '../WallSpread.vue';

const bench = useBench();
const jobs = useJob();
const walls = useWalls();
const forecast = useForecast();
const processes = computed(() => jobs.processes.map((p) => ({ value: p.key, title: p.name })));
const what = computed(() => (walls.outside ? 'gap' : 'wall'));
</script>

<template>
    <p v-if="!bench.part" class="soft">Bring a part in first.</p>
    <template v-else>
        <AppliedNote />
        <ForecastPanel v-if="forecast.draft"><ToolFields /></ForecastPanel>
        <template v-else>
            <v-select
                label="Made by"
                :items="processes"
                :model-value="walls.process"
                data-testid="process"
                @update:model-value="walls.process = $event"
            />
            <LengthField
                :label="`Least ${what}`"
                :value="walls.least"
                testid="least-wall"
                @change="walls.own = $event"
            />
            <CheckRow
                :value="walls.outside"
                label="Gaps and slots instead of walls"
                testid="outside"
                @change="walls.outside = $event"
            />
            <p v-if="!walls.measurable" class="reason" data-testid="no-wall">
                {{ bench.part.name }} is {{ bench.part.figures.reason }}: there is no wall to measure. Thicken
                it, or seal it first.
            </p>
            <p v-else-if="walls.busy && !walls.report" class="soft" role="status">Measuring the walls …</p>
            <template v-else-if="walls.report">
                <p data-testid="wall-summary">
                    <template v-if="walls.report.least == null">Nothing lies opposite anything.</template>
                    <template v-else>
                        Thinnest <b class="figure">{{ f.millimetres(walls.report.least) }}</b>, half of it
                        below
                        <span class="figure">{{ f.millimetres(walls.report.median ?? 0) }}</span>
                    </template>
                </p>
                <WallSpread />
                <ul v-if="walls.places.length" class="thin" data-testid="thin-areas">
                    <li v-for="(a, n) in walls.places" :key="n">
                        <button type="button" :aria-pressed="walls.chosen === n" @click="walls.show(n)">
                            <v-icon icon="$warning" size="16" color="warning" /> {{ a.text }}
                        </button>
                    </li>
                </ul>
                <p v-if="!walls.report.thin.length && walls.report.least != null" class="soft">
                    No {{ what }} is below {{ f.millimetres(walls.least ?? 0) }}.
                </p>
            </template>
            <ClearanceLine />
            <ToolList station="wall" />
        </template>
    </template>
</template>

<style scoped>
.reason {
    margin: 8px 0;
    padding: 8px 10px;
    border-left: 3px solid rgb(var(--v-theme-warning));
    background: rgb(var(--v-theme-background));
}
.thin {
    list-style: none;
    margin: 6px 0 10px;
    padding: 0;
}
.thin button {
    width: 100%;
    padding: 4px;
    text-align: left;
    cursor: pointer;
}
.thin button[aria-pressed='true'] {
    outline: 2px solid rgb(var(--v-theme-primary));
}
</style>
