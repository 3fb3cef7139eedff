<script setup lang="ts">
// What recipes made of files: one row a file, with where it stopped, if it did.
import { mdiClose } from '@mdi/js';
import { computed } from 'vue';
import { mass, volume } from '../../format';
import { useBench } from '../../stores/bench';
import { useBringIn, type Arrival } from '../../stores/bringIn';
import { useJob } from '../../stores/job';
import { states } from '../../text';

const bringIn = useBringIn();
const bench = useBench();
const jobs = useJob();

function row(arrival: Arrival) {
    const steps = jobs.job?.steps.filter((s) => s.part === arrival.part && s.number !== arrival.part) ?? [];
    const part = jobs.job?.parts.find((p) => p.id === arrival.part);
    const stopped = steps.find((s) => s.state.is === 'stopped');
    return {
        arrival,
        part,
        done: steps.filter((s) => s.state.is === 'done').length,
        idle: steps.filter((s) => s.state.is === 'idle').length,
        stopped: stopped?.state.is === 'stopped' ? `${stopped.title}: ${stopped.state.why}` : '',
        left: steps.flatMap((s) => (s.state.is === 'done' ? s.report.left : [])),
    };
}
const rows = computed(() => bringIn.arrivals.filter((a) => a.recipe && a.part != null).map(row));
const told = (r: ReturnType<typeof row>) =>
    `${r.done} ${r.done === 1 ? 'step' : 'steps'} done` + (r.idle ? `, ${r.idle} with nothing to do` : '');
</script>

<template>
    <table v-if="rows.length" class="results" data-testid="recipe-results">
        <caption class="small-caps">
            What the recipe made
        </caption>
        <thead>
            <tr class="small-caps">
                <th scope="col">File</th>
                <th scope="col">State</th>
                <th scope="col">Volume</th>
                <th scope="col">Mass</th>
                <th scope="col"><span class="d-sr-only">Remove from the list</span></th>
            </tr>
        </thead>
        <tbody v-for="r in rows" :key="r.arrival.part!">
            <tr>
                <td>
                    <button type="button" class="name" @click="bench.selectPart(r.arrival.part!)">
                        {{ r.arrival.name }}
                    </button>
                </td>
                <td>
                    <v-icon
                        v-if="r.part"
                        :icon="states[r.part.figures.state].icon"
                        :color="states[r.part.figures.state].colour"
                        size="16"
                    />
                    {{ r.part?.figures.state ?? 'gone' }}
                </td>
                <td class="figure">
                    {{ r.part?.figures.volume == null ? 'none' : volume(r.part.figures.volume) }}
                </td>
                <td class="figure">{{ r.part?.mass == null ? '' : mass(r.part.mass) }}</td>
                <td>
                    <v-btn
                        :icon="mdiClose"
                        size="x-small"
                        :aria-label="`Put the row of ${r.arrival.name} away`"
                        @click="bringIn.dismiss(r.arrival)"
                    />
                </td>
            </tr>
            <tr>
                <td colspan="5" class="told">
                    {{ told(r) }}
                    <p v-if="r.stopped" class="stopped">Stopped at {{ r.stopped }}</p>
                    <p v-for="l in r.left" :key="l" class="left">{{ l }}</p>
                </td>
            </tr>
        </tbody>
    </table>
</template>

<style scoped>
.results {
    width: 100%;
    margin-top: 12px;
    border-collapse: collapse;
    font-size: 13px;
}
caption {
    text-align: left;
    margin-bottom: 4px;
}
th {
    text-align: left;
    font-weight: 400;
}
tbody {
    border-top: 1px solid rgb(var(--v-theme-rule));
}
td {
    padding: 3px 6px 1px 0;
    white-space: nowrap;
}
td.figure,
th:nth-child(3),
th:nth-child(4) {
    text-align: right;
}
.name {
    font-weight: 500;
    text-align: left;
    white-space: normal;
    overflow-wrap: anywhere;
    cursor: pointer;
}
.told {
    padding-bottom: 5px;
    white-space: normal;
    opacity: 0.85;
}
.stopped {
    color: rgb(var(--v-theme-error));
}
.left {
    color: rgb(var(--v-theme-warning));
}
</style>
