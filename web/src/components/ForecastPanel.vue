<script setup lang="ts">
import { computed, onMounted, provide, ref, watch } from 'vue';
import { forecastRows, told } from '../format';
import { mayKeepLost } from '../api/action';
import { useBench } from '../stores/bench';
import { useCauses } from '../stores/causes';
import { useForecast } from '../stores/forecast';
import { useJob } from '../stores/job';
import { usePicks } from '../tools/picking/picks';
import { OF_THE_STEP } from '../tools/fields/ofTheStep';
import HarmRows from './HarmRows.vue';
import MadeRows from './MadeRows.vue';
import TaskProgress from './TaskProgress.vue';
import ToolHeading from './ToolHeading.vue';

const bench = useBench();
const causes = useCauses();
const forecast = useForecast();
const jobs = useJob();
const picks = usePicks();
provide(OF_THE_STEP, true);
const changed = computed(() => forecast.typed.size > 0);
/** Whether what is shown belongs to other figures than the fields hold. */
const isOld = computed(() => changed.value || forecast.wrong.size > 0);
const canApply = computed(
    () =>
        !forecast.wrong.size &&
        !forecast.applying &&
        complete.value &&
        (changed.value || (!!forecast.ready && !forecast.ready.asItWas)),
);
/** Of chambers at least one must be picked. */
const complete = computed(() => forecast.draft?.kind !== 'shape.chambers' || picks.chambers.length > 0);
/** What is missing, where no line about picks says it. */
const lacks = computed(() => (forecast.draft && !picks.picking ? picks.missing(forecast.draft) : null));
const later = computed(() => forecast.ready?.later ?? []);
const stops = computed(() => later.value.filter((l) => l.state.is === 'stopped'));
/** What happens further down, counted. */
const follows = computed(() => {
    const of = (...kinds: string[]) => later.value.filter((l) => kinds.includes(l.state.is)).length;
    const say = (n: number, one: string, many: string) => (n ? `${n} ${n === 1 ? one : many}` : '');
    const pick = stops.value.filter((l) => l.state.is === 'stopped' && l.state.new_pick).length;
    return [
        say(of('done', 'idle'), 'later step follows', 'later steps follow'),
        say(pick, 'needs a new pick', 'need a new pick'),
        say(stops.value.length - pick, 'stops', 'stop'),
        say(of('waiting'), 'waits for it', 'wait for that'),
    ]
        .filter(Boolean)
        .join(', ');
});
/** What a cubic millimetre of its material weighs. */
const gramsEach = computed(() => {
    const { mass, figures } = bench.part ?? {};
    return mass != null && figures?.volume ? mass / figures.volume : null;
});
const rows = computed(() => {
    const report = forecast.ready?.report;
    return report?.before
        ? forecastRows(report.before, report.after, report.largest_move, report.change, gramsEach.value)
        : [];
});
/** Whether rows are shown in which nothing changes. */
const all = ref(false);
const shown = computed(() => rows.value.filter((r, i) => all.value || i === 0 || r.change !== 'none'));
const same = computed(() => rows.value.length - shown.value.length);
/** What would keep what it loses, where it is no step done before. */
const instead = computed(() => (jobs.asOf?.reopened ? null : forecast.ready?.report.instead));
/** Some steps only make further parts. */
const unchanged = computed(() => {
    const report = forecast.ready?.report;
    const { triangles_added: added, triangles_removed: removed } = report?.change ?? {};
    return !!report?.made?.length && added === 0 && removed === 0;
});
function keepLost(on: boolean) {
    const a = forecast.draft;
    if (mayKeepLost(a)) picks.change({ ...a, keep_lost: on });
}
const panel = ref<HTMLElement>();
const intoSight = () => panel.value?.scrollIntoView({ block: 'nearest' });
onMounted(intoSight);
// A tool begun from the list below shows its worksheet.
watch(() => forecast.draft?.kind, intoSight, { flush: 'post' });
const glyphs = { better: '✓', worse: '✗', other: '•', none: '' };
const meanings = { better: 'better', worse: 'worse', other: 'changed', none: '' };
</script>

<template>
    <section ref="panel" class="forecast" aria-label="Forecast" data-testid="forecast">
        <ToolHeading />
        <slot />
        <TaskProgress
            v-if="forecast.task"
            :task="forecast.task"
            :what="forecast.applying ? 'Applying' : 'Forecasting'"
            @cancel="forecast.cancel()"
        />
        <div v-if="forecast.problem" class="problem" role="alert" data-testid="problem">
            <p class="heading">{{ forecast.problem.title }}</p>
            <p>{{ forecast.problem.detail }}</p>
        </div>
        <div v-if="forecast.ready" :class="{ old: isOld }">
            <p v-if="isOld" class="soft" data-testid="old">What the figures before would do:</p>
            <ul class="done">
                <template v-if="!forecast.ready.report.plan?.length">
                    <li v-for="d in forecast.ready.report.done" :key="d">{{ told(d) }}</li>
                </template>
                <li v-for="l in forecast.ready.report.left" :key="l" class="left">{{ l }}</li>
                <li
                    v-for="(n, i) in forecast.ready.report.notices ?? []"
                    :key="i"
                    class="left"
                    data-testid="notice"
                >
                    {{ n.text }}
                </li>
            </ul>
            <div v-if="instead" class="instead" data-testid="instead">
                <p>The wall can be made without folding there:</p>
                <button
                    type="button"
                    class="more"
                    :disabled="isOld"
                    data-testid="instead-do"
                    @click="forecast.applyInstead()"
                >
                    {{ told(instead.label) }}
                </button>
            </div>
            <HarmRows
                v-if="forecast.ready.report.harm && !unchanged"
                :harm="forecast.ready.report.harm"
                :action="forecast.draft"
                @keep="keepLost"
            />
            <p v-if="unchanged" class="soft">The part itself stays as it is.</p>
            <table v-else data-testid="forecast-table">
                <thead>
                    <tr class="small-caps">
                        <th scope="col">Forecast</th>
                        <th scope="col">Before</th>
                        <th scope="col">After</th>
                    </tr>
                </thead>
                <tbody>
                    <tr v-for="r in shown" :key="r.label" :class="r.change">
                        <th scope="row">{{ r.label }}</th>
                        <td class="figure">{{ r.before }}</td>
                        <td class="figure">
                            <span class="glyph" :title="meanings[r.change]">{{ glyphs[r.change] }}</span>
                            {{ r.after }}
                        </td>
                    </tr>
                    <tr v-for="c in causes.list" :key="c.kind" class="worse" :data-testid="`cause-${c.kind}`">
                        <th scope="row" :title="c.worst ? told(c.worst.size) : ''">
                            {{ c.name[0]!.toUpperCase() + c.name.slice(1) }}
                            <span v-if="c.worst && c.worst.size.length < 40" class="soft">{{
                                told(c.worst.size)
                            }}</span>
                        </th>
                        <td class="figure">{{ c.before }}</td>
                        <td class="figure"><span class="glyph" title="worse">✗</span> {{ c.after }}</td>
                    </tr>
                </tbody>
            </table>
            <p v-if="!unchanged && causes.looking" class="soft">Looking at walls and corners …</p>
            <button
                v-if="!unchanged && (same || all)"
                type="button"
                class="more"
                :aria-expanded="all"
                data-testid="rows-same"
                @click="all = !all"
            >
                {{ all ? 'Only what changes' : `${same} more without change` }}
            </button>
            <MadeRows
                v-if="forecast.ready.report.made?.length"
                :made="forecast.ready.report.made"
                :of="bench.part?.name ?? ''"
            />
        </div>
        <div v-if="forecast.ready?.later.length" class="later" data-testid="later">
            <p>{{ follows }}</p>
            <p v-for="l in stops" :key="l.step" class="left">
                Step {{ l.step }} ({{ l.title }}): {{ l.state.is === 'stopped' ? l.state.why : '' }}
            </p>
        </div>
        <p v-if="lacks" class="soft mt-2" role="status" data-testid="lacks">{{ lacks }}</p>
        <div class="deciding d-flex ga-2">
            <v-btn
                variant="flat"
                color="primary"
                :disabled="!canApply"
                data-testid="apply"
                @click="forecast.apply()"
                >{{ jobs.asOf?.reopened ? 'Apply the change' : 'Apply' }}</v-btn
            >
            <v-btn variant="outlined" data-testid="cancel" @click="forecast.cancel()">Cancel</v-btn>
            <v-btn
                v-if="forecast.ready"
                class="ml-auto"
                variant="text"
                title="Hold to see the part as it was (key b)"
                data-testid="before"
                @pointerdown="bench.before = true"
                @pointerup="bench.before = false"
                @pointerleave="bench.before = false"
                >Before</v-btn
            >
        </div>
    </section>
</template>

<style scoped>
.old > *:not(:first-child) {
    opacity: 0.45;
}
.forecast {
    padding: 10px 12px 12px;
    margin: 10px 0;
    border: 1px solid rgb(var(--v-theme-primary));
    border-radius: 4px;
}
.done {
    margin: 8px 0 8px 16px;
    font-size: 13px;
}
.left {
    color: rgb(var(--v-theme-warning));
}
.later {
    margin-top: 8px;
    padding: 6px 10px;
    border-left: 3px solid rgb(var(--v-theme-primary));
    background: rgb(var(--v-theme-background));
    font-size: 13px;
}
/* In sight however long the table above is. */
.deciding {
    position: sticky;
    bottom: -12px;
    z-index: 1;
    margin: 12px -12px -12px;
    padding: 8px 12px 12px;
    background: rgb(var(--v-theme-surface));
    border-radius: 0 0 4px 4px;
}
.instead {
    margin-top: 8px;
}
.instead .more {
    text-align: left;
}
.more {
    padding: 4px 0;
    font-size: 13px;
    text-decoration: underline;
    cursor: pointer;
}
table {
    width: 100%;
    margin-top: 10px;
    border-collapse: collapse;
}
th[scope='row'] {
    font-weight: 400;
    text-align: left;
}
th[scope='col'] {
    text-align: right;
    padding-bottom: 2px;
}
th[scope='col']:first-child {
    text-align: left;
}
td {
    text-align: right;
    padding: 2px 0 2px 10px;
    white-space: nowrap;
}
tbody tr {
    border-top: 1px solid rgb(var(--v-theme-rule));
}
.better td:last-child {
    color: rgb(var(--v-theme-success));
    font-weight: 500;
}
.worse td:last-child {
    color: rgb(var(--v-theme-error));
    font-weight: 500;
}
.glyph {
    font-size: 9px;
}
.problem {
    margin-top: 8px;
    padding: 8px 10px;
    border-left: 3px solid rgb(var(--v-theme-error));
    background: rgb(var(--v-theme-background));
}
</style>
