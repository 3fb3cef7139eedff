<script setup lang="ts">
// Every further part a step makes, with how it stands; what is no solid comes first.
import { computed, ref, watch } from 'vue';
import type { Report } from '../api/client';
import { volume, whole } from '../format';
import { nameOfMade } from '../stores/parts';
import { useJob } from '../stores/job';
import { lookOf } from '../text';

type Made = NonNullable<Report['made']>[number];
const { made, of } = defineProps<{ made: readonly Made[]; of: string }>();
const jobs = useJob();
/** More than this are told as a number until asked for. */
const AT_FIRST = 6;
const all = ref(false);
watch(
    () => made,
    () => (all.value = false),
);
const isSound = (m: Made) => m.figures.drawn || (m.figures.state === 'sealed' && !m.figures.touch_points);
const rows = computed(() => {
    const named = made.map((m) => ({ m, name: nameOfMade(m.called, of, jobs.parts), sound: isSound(m) }));
    return [...named.filter((r) => !r.sound), ...named.filter((r) => r.sound)];
});
const shown = computed(() => (all.value ? rows.value : rows.value.slice(0, AT_FIRST)));
</script>

<template>
    <table class="made" data-testid="made">
        <thead>
            <tr class="small-caps">
                <th scope="col">Makes</th>
                <th scope="col">State</th>
                <th scope="col">Volume</th>
            </tr>
        </thead>
        <tbody>
            <tr v-for="(r, i) in shown" :key="i">
                <th scope="row">{{ r.name }}</th>
                <td :class="{ unsound: !r.sound }" :title="r.m.figures.reason">
                    <v-icon :icon="lookOf(r.m.figures).icon" :color="lookOf(r.m.figures).colour" size="14" />
                    {{ r.m.figures.touch_points ? 'only touches' : lookOf(r.m.figures).word }}
                </td>
                <td class="figure">{{ r.m.figures.volume == null ? 'none' : volume(r.m.figures.volume) }}</td>
            </tr>
        </tbody>
    </table>
    <button v-if="rows.length > shown.length" type="button" class="more" @click="all = true">
        {{ whole(rows.length - shown.length) }} more
    </button>
</template>

<style scoped>
.made {
    width: 100%;
    margin-top: 10px;
    border-collapse: collapse;
}
th {
    text-align: left;
}
th[scope='row'] {
    font-weight: 400;
    max-width: 150px;
    overflow-wrap: anywhere;
}
th:not(:first-child),
td {
    padding: 2px 0 2px 10px;
    text-align: right;
    white-space: nowrap;
}
tbody tr {
    border-top: 1px solid rgb(var(--v-theme-rule));
}
.unsound {
    color: rgb(var(--v-theme-error));
    font-weight: 500;
}
.more {
    padding: 4px 0;
    font-size: 13px;
    text-decoration: underline;
    cursor: pointer;
}
</style>
