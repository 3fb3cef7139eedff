<script setup lang="ts">
// All parts of the job: searched, told apart, and many of them changed at once.
import { computed, nextTick, ref, watch } from 'vue';
import * as f from '../../format';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { materialName, useParts, type ColourBy } from '../../stores/parts';
import { stateOf } from '../../text';
import ManyParts from './ManyParts.vue';

const jobs = useJob();
const bench = useBench();
const parts = useParts();
const text = ref('');
const search = ref<{ focus: () => void }>();
const marked = ref(new Set<number>());
const renaming = ref<number | null>(null);
const open = computed({ get: () => parts.listed, set: (on) => (parts.listed = on) });

const rows = computed(() =>
    jobs.parts
        .map((p) => ({ p, look: stateOf(p), material: materialName(p, jobs.materials) }))
        .filter(({ p, look, material: m }) =>
            text.value
                .toLowerCase()
                .split(/\s+/)
                .every((w) => `${p.name} ${look.word} ${m} ${p.group ?? ''}`.toLowerCase().includes(w)),
        ),
);
const chosen = computed(() => rows.value.map(({ p }) => p.id).filter((id) => marked.value.has(id)));
const all = computed(() => rows.value.length > 0 && chosen.value.length === rows.value.length);
const process = computed(
    () => jobs.processes.find((p) => p.key === jobs.job?.setup.making?.process)?.name ?? '',
);
const colourings: { value: ColourBy; title: string }[] = [
    { value: 'own', title: 'their own colour' },
    { value: 'material', title: 'their material' },
    { value: 'state', title: 'how they stand' },
];

function mark(id: number) {
    const next = new Set(marked.value);
    if (!next.delete(id)) next.add(id);
    marked.value = next;
}
const markAll = () => (marked.value = all.value ? new Set() : new Set(rows.value.map(({ p }) => p.id)));
watch(open, async (on) => {
    if (!on) return;
    marked.value = new Set(bench.part ? [bench.part.id] : []);
    await nextTick();
    search.value?.focus();
});

function show(id: number) {
    bench.selectPart(id);
    open.value = false;
}
function renamed(id: number, event: Event) {
    renaming.value = null;
    void parts.rename(id, (event.target as HTMLInputElement).value);
}
</script>

<template>
    <v-dialog v-model="open" max-width="1080" scrollable aria-label="Parts">
        <v-card class="pa-4 card" data-testid="parts-list">
            <div class="head">
                <p class="heading">{{ jobs.parts.length }} parts</p>
                <v-text-field
                    ref="search"
                    v-model="text"
                    label="Name, state, material or group"
                    data-testid="parts-search"
                />
                <v-select
                    label="Parts are coloured by"
                    :items="colourings"
                    :model-value="parts.colourBy"
                    data-testid="colour-by"
                    @update:model-value="parts.setColourBy($event)"
                />
            </div>
            <div class="table">
                <table>
                    <thead>
                        <tr class="small-caps">
                            <th scope="col">
                                <input
                                    type="checkbox"
                                    :checked="all"
                                    aria-label="Mark all that are listed"
                                    data-testid="mark-all"
                                    @change="markAll"
                                />
                            </th>
                            <th scope="col">Part</th>
                            <th scope="col">State</th>
                            <th scope="col">Group</th>
                            <th scope="col" class="num">Size</th>
                            <th scope="col">Material</th>
                            <th scope="col" class="num">Mass</th>
                            <th scope="col">In view</th>
                        </tr>
                    </thead>
                    <tbody>
                        <tr
                            v-for="{ p, look, material: m } in rows"
                            :key="p.id"
                            :class="{ chosen: p.id === bench.part?.id }"
                            :data-testid="`row-${p.name}`"
                        >
                            <td>
                                <input
                                    type="checkbox"
                                    :checked="marked.has(p.id)"
                                    :aria-label="`Mark ${p.name}`"
                                    :data-testid="`mark-${p.name}`"
                                    @change="mark(p.id)"
                                />
                            </td>
                            <th scope="row">
                                <input
                                    v-if="renaming === p.id"
                                    class="rename"
                                    :value="p.name"
                                    maxlength="80"
                                    aria-label="Name"
                                    data-testid="rename"
                                    @vue:mounted="
                                        (node: { el: unknown }) => (node.el as HTMLInputElement).select()
                                    "
                                    @keydown.enter.stop.prevent="renamed(p.id, $event)"
                                    @keydown.esc.stop="renaming = null"
                                    @blur="renaming = null"
                                />
                                <template v-else>
                                    <span
                                        class="colour"
                                        :style="{ background: p.colour ?? 'transparent' }"
                                        aria-hidden="true"
                                    />
                                    <button
                                        type="button"
                                        class="name"
                                        title="Show it on the bench; double click to rename"
                                        @click="show(p.id)"
                                    >
                                        {{ p.name }}
                                    </button>
                                    <button
                                        type="button"
                                        class="soft small"
                                        :aria-label="`Rename ${p.name}`"
                                        :data-testid="`rename-${p.name}`"
                                        @click="renaming = p.id"
                                    >
                                        rename
                                    </button>
                                </template>
                            </th>
                            <td>
                                <v-icon :icon="look.icon" :color="look.colour" size="16" /> {{ look.word }}
                            </td>
                            <td>{{ p.group ?? '' }}</td>
                            <td class="figure num">{{ f.size(p.figures.size) }}</td>
                            <td>{{ m || 'none' }}</td>
                            <td class="figure num">{{ p.mass == null ? '' : f.mass(p.mass) }}</td>
                            <td>
                                <input
                                    type="checkbox"
                                    :checked="bench.shownParts.includes(p)"
                                    :aria-label="`${p.name} in view`"
                                    @change="
                                        bench.shownParts.includes(p) ? bench.hide([p.id]) : bench.pin([p.id])
                                    "
                                />
                            </td>
                        </tr>
                    </tbody>
                </table>
                <p v-if="!rows.length" class="soft pa-2">No part is like that.</p>
            </div>
            <p class="soft mt-2">Made by: {{ process }}, for all parts of the job.</p>
            <ManyParts :chosen="chosen" />
            <div class="d-flex justify-end mt-2">
                <v-btn variant="outlined" data-testid="parts-list-close" @click="open = false">Close</v-btn>
            </div>
        </v-card>
    </v-dialog>
</template>

<style scoped>
.card {
    max-height: 86vh;
}
.head {
    display: grid;
    grid-template-columns: auto 1fr 220px;
    align-items: center;
    gap: 16px;
}
.table {
    flex: 1;
    min-height: 120px;
    overflow: auto;
    margin-top: 10px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
}
table {
    width: 100%;
    border-collapse: collapse;
}
thead th {
    position: sticky;
    top: 0;
    z-index: 1;
    background: rgb(var(--v-theme-surface));
}
th,
td {
    padding: 4px 8px;
    text-align: left;
    white-space: nowrap;
    border-bottom: 1px solid rgb(var(--v-theme-rule));
}
th[scope='row'] {
    font-weight: 500;
}
.num {
    text-align: right;
}
.chosen {
    background: rgb(var(--v-theme-background));
}
.colour {
    display: inline-block;
    width: 12px;
    height: 12px;
    margin-right: 8px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 3px;
    vertical-align: -1px;
}
.name,
.small {
    cursor: pointer;
}
.name:hover {
    text-decoration: underline;
}
.small {
    margin-left: 8px;
    font-size: 12px;
}
.rename {
    padding: 1px 6px;
    border: 1px solid rgb(var(--v-theme-primary));
    border-radius: 3px;
}
</style>
