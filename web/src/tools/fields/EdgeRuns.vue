<script setup lang="ts">
// The runs of edges that are meant, each with the largest figure it could have, and a slider that stops at what all could have.
import { computed, ref, watch } from 'vue';
import { millimetres, told } from '../../format';
import { useEdgeRuns } from '../../stores/edgeRuns';
import type { Schemas } from '../../api/client';
import { MOST_LISTED } from '../picking/edgeMarks';

const props = defineProps<{
    /** The figure all have that have none of their own, mm. */
    figure: number;
    /** What it is: radius, width. */
    word: string;
}>();
const emit = defineEmits<{ change: [figure: number] }>();
/** What a run has of its own: in its row, and under it. */
const slots = defineSlots<{
    own?: (row: { run: Schemas['EdgeRun']; n: number }) => unknown;
    under?: (row: { run: Schemas['EdgeRun']; n: number }) => unknown;
}>();
const edges = useEdgeRuns();
const runs = computed(() => edges.found?.runs ?? []);
const most = computed(() => edges.found?.together ?? null);
/** How sure that is. */
const sureness = computed(() =>
    edges.found?.tried
        ? ', tried out.'
        : edges.trying
          ? ' by where they touch; being tried …'
          : ' by where they touch.',
);
const slid = ref(props.figure);
watch(
    () => props.figure,
    (figure) => (slid.value = figure),
);
/** To three digits of the largest. */
const step = computed(() => (most.value ? 10 ** Math.floor(Math.log10(most.value) - 2) : 0.01));
function slide(to: number) {
    slid.value = Math.max(Number(to.toPrecision(3)), step.value);
}
const wording = (r: Schemas['EdgeRun']) =>
    `${r.inner ? 'inner' : 'outer'}, ${millimetres(Number(r.length.toPrecision(3)))} long`;
</script>

<template>
    <div v-if="edges.found" data-testid="edge-runs">
        <template v-if="most">
            <v-slider
                :model-value="Math.min(slid, most)"
                :min="0"
                :max="most"
                :step="step"
                hide-details
                density="compact"
                thumb-size="16"
                track-size="2"
                :aria-label="`${word} by sliding`"
                data-testid="figure-slider"
                @update:model-value="slide"
                @end="emit('change', slid)"
            />
            <p class="soft" data-testid="most-together">
                {{ told(`Up to ${millimetres(most)} fits ${edges.found.count === 1 ? 'it' : 'all of them'}`)
                }}{{ sureness }}
            </p>
        </template>
        <table v-if="runs.length > 1 || slots.own" class="runs">
            <thead>
                <tr>
                    <th>Edge</th>
                    <th class="figure">Alone up to</th>
                    <th v-if="slots.own">Own {{ word }}</th>
                </tr>
            </thead>
            <tbody>
                <template v-for="(r, n) in runs.slice(0, MOST_LISTED)" :key="n">
                    <tr
                        :data-testid="`run-${n}`"
                        :class="{ pointed: edges.pointed === n }"
                        @mouseenter="edges.pointed = n"
                        @mouseleave="edges.pointed = null"
                        @focusin="edges.pointed = n"
                        @focusout="edges.pointed = null"
                    >
                        <td>{{ n + 1 }} · {{ wording(r) }}</td>
                        <td class="figure">{{ r.largest > 0 ? millimetres(r.largest) : 'no room' }}</td>
                        <td v-if="slots.own" class="own"><slot name="own" :run="r" :n="n" /></td>
                    </tr>
                    <tr
                        v-if="slots.under"
                        @mouseenter="edges.pointed = n"
                        @mouseleave="edges.pointed = null"
                        @focusin="edges.pointed = n"
                        @focusout="edges.pointed = null"
                    >
                        <td colspan="3" class="under"><slot name="under" :run="r" :n="n" /></td>
                    </tr>
                </template>
            </tbody>
        </table>
        <p v-if="edges.found.count > MOST_LISTED" class="soft">
            and {{ edges.found.count - Math.min(MOST_LISTED, runs.length) }} more
        </p>
    </div>
</template>

<style scoped>
.runs {
    width: 100%;
    border-collapse: collapse;
    font-size: 13px;
}
th {
    font-weight: 500;
    text-align: left;
}
td,
th {
    padding: 2px 4px;
}
td.figure,
th.figure {
    text-align: right;
    white-space: nowrap;
}
th.figure {
    font-family: inherit;
}
tr.pointed td {
    background: rgb(var(--v-theme-rule), 0.35);
}
.own {
    width: 104px;
}
td.under {
    padding-top: 0;
}
</style>
