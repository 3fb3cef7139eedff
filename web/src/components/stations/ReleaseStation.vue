<script setup lang="ts">
import { mdiDownload } from '@mdi/js';
import { storeToRefs } from 'pinia';
import { computed, nextTick, ref, watch } from 'vue';
import {
    ProblemError,
    type LengthUnit,
    type Problem,
    type Release,
    type ReleaseFormat,
} from '../../api/client';
import { area, bytes, mass, percent, volume } from '../../format';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { useReleases } from '../../stores/releases';
import { unitNames } from '../../text';
import CheckList from '../CheckList.vue';
import TaskProgress from '../TaskProgress.vue';
import BillTable from '../weigh/BillTable.vue';

const bench = useBench();
const jobs = useJob();
const store = useReleases();
const { format, unit, task, list: releases } = storeToRefs(store);
const problem = ref<Problem | null>(null);
const part = computed(() => bench.part);
/** Whether a person says yes to what mending lost. */
const accepted = ref(false);
const losses = computed(() => part.value?.losses.steps ?? []);
const lostShare = computed(() => losses.value.reduce((all, l) => all + l.share, 0));
const tooMuch = computed(() => lostShare.value > (part.value?.losses.may_lose ?? 1));
watch([() => part.value?.id, () => part.value?.mesh], () => (accepted.value = false));
const formats: { value: ReleaseFormat; title: string }[] = [
    { value: '3mf', title: '3MF: keeps unit, name and colour' },
    { value: 'stl', title: 'STL, binary: single precision, no unit' },
    { value: 'obj', title: 'OBJ: no unit' },
    { value: 'ply', title: 'PLY, binary: double precision, no unit' },
    { value: 'step', title: 'STEP: exact faces where they are known' },
    { value: 'glb', title: 'GLB: single precision, name and colour' },
];
/** The unit of formats that leave no choice. */
const ownUnits: Partial<Record<ReleaseFormat, LengthUnit>> = { step: 'millimetre', glb: 'metre' };
const ownUnit = computed(() => ownUnits[format.value]);
const units = (['millimetre', 'centimetre', 'metre', 'inch'] as const).map((value) => ({
    value,
    title: unitNames[value],
}));
/** What a part was when it was released, alone or with others. */
const then = (r: Release, id?: number) =>
    r.part === id ? r.mesh : r.sheet.parts?.find((p) => p.of?.id === id)?.of?.mesh;
/** The newest release of the part as it is now. */
const current = computed(() => {
    const { id, mesh } = part.value ?? {};
    const own = releases.value.filter((r) => then(r, id) !== undefined);
    return own.find((r) => r.id === store.chosen) ?? own.find((r) => then(r, id) === mesh);
});
watch(
    () => part.value?.id,
    () => (store.chosen = null),
);
const earlier = computed(() => releases.value.filter((r) => r !== current.value));
const weighed = computed(() => current.value?.sheet.bill.find((l) => l.id === part.value?.id));
const uncut = computed(() => current.value?.sheet.bill.reduce((all, l) => all + l.marked_threads, 0));
const checks = computed(() => current.value?.sheet.checks ?? problem.value?.checks ?? []);

watch([() => part.value?.mesh, format, unit], () => (problem.value = null));

/** Shows the check sheet of an earlier release, and its part. */
function show(r: Release) {
    const own = part.value && then(r, part.value.id) !== undefined;
    if (!own && jobs.parts.some((p) => p.id === r.part)) bench.selectPart(r.part);
    void nextTick(() => (store.chosen = r.id));
}

async function release() {
    const held = part.value;
    if (!held) return;
    problem.value = null;
    try {
        store.chosen = null;
        await store.release(held.id, accepted.value);
    } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        problem.value = error.problem;
        if (error.problem.type === 'urn:nimbet:stale-revision') await jobs.reload();
    }
}
</script>

<template>
    <p v-if="!part" class="soft">Bring a part in first.</p>
    <template v-else>
        <p class="mb-3">
            <b>{{ part.name }}</b> is written, read back from its own bytes and proved again before it is
            handed out.
        </p>
        <v-select v-model="format" label="Format" :items="formats" data-testid="format" />
        <v-select
            :model-value="ownUnit ?? unit"
            class="mt-3"
            label="Unit of the numbers in the file"
            :items="units"
            :disabled="!!ownUnit"
            :hint="ownUnit ? 'The format leaves no choice.' : ''"
            persistent-hint
            data-testid="release-unit"
            @update:model-value="unit = $event"
        />
        <div v-if="tooMuch" class="problem" data-testid="loss">
            <p class="heading">Mending lost {{ percent(lostShare) }} of the surface</p>
            <p v-for="l in losses" :key="l.title">
                {{ percent(l.share) }}, {{ area(l.area) }}: {{ l.title }}
            </p>
            <v-checkbox
                v-model="accepted"
                label="Release it all the same; the sheet will say so"
                density="compact"
                hide-details
                data-testid="accept-loss"
            />
        </div>
        <v-btn
            class="mt-3"
            variant="flat"
            color="primary"
            :disabled="!!task || (tooMuch && !accepted)"
            data-testid="release"
            @click="release"
            >Prove and release</v-btn
        >
        <TaskProgress v-if="task" :task="task" what="Releasing" @cancel="store.cancel()" />
        <div v-if="problem" class="problem" role="alert" data-testid="not-released">
            <p class="heading">{{ problem.title }}</p>
            <p v-if="!problem.checks?.length">{{ problem.detail }}</p>
            <p v-else>
                {{ part.name }} is {{ part.figures.reason }}. Nothing is handed out that is not proved a
                solid.
            </p>
        </div>
        <div v-if="current" class="file" data-testid="released">
            <v-btn
                :href="`/api/v1/releases/${current.id}/file`"
                :prepend-icon="mdiDownload"
                variant="outlined"
                data-testid="download"
                >{{ current.sheet.file }}</v-btn
            >
            <p class="figure">{{ bytes(current.sheet.bytes) }} · {{ volume(current.sheet.volume) }}</p>
            <p class="figure soft hash" title="BLAKE3 of the file">{{ current.sheet.hash }}</p>
            <p v-if="current.sheet.single?.is === 'unfit'" class="unfit" data-testid="unfit">
                Only for readers of double precision: in single precision it is too fine at
                {{ current.sheet.single.at.map((x) => x.toFixed(3)).join(', ') }} mm.
            </p>
        </div>
        <section v-if="checks.length" class="sheet" data-testid="check-sheet" aria-label="Check sheet">
            <p class="small-caps">Check sheet</p>
            <CheckList :checks="checks" />
        </section>
        <section
            v-if="current?.sheet.parts?.length"
            class="sheet"
            data-testid="sheet-parts"
            aria-label="Parts in the file"
        >
            <p class="small-caps">Parts in the file</p>
            <details v-for="p in current.sheet.parts" :key="p.part">
                <summary>
                    {{ p.part }}<span v-if="p.copy_of" class="soft">, a copy of {{ p.copy_of }}</span>
                    <span class="figure evidence"
                        >{{ volume(p.volume) }}, {{ p.checks.length }} claims proved</span
                    >
                </summary>
                <CheckList :checks="p.checks" />
            </details>
        </section>
        <section
            v-if="current?.sheet.bill.length"
            class="sheet"
            data-testid="sheet-bill"
            aria-label="Bill of parts"
        >
            <p class="small-caps">Bill of parts</p>
            <p v-if="weighed?.mass != null">
                {{ weighed.part }}, all threads cut: <b class="figure">{{ mass(weighed.mass) }}</b> of
                {{ weighed.material }}.
            </p>
            <BillTable :lines="current.sheet.bill" :about="part.id" />
            <p v-if="uncut" class="soft">
                Threads only marked, {{ uncut }} on other parts, are not in their figures.
            </p>
        </section>
        <template v-if="earlier.length">
            <p class="small-caps mt-4">Released before</p>
            <p v-for="r in earlier" :key="r.id" class="earlier">
                <button type="button" title="Show its check sheet" @click="show(r)">
                    {{ r.sheet.file }}
                </button>
                <span class="figure soft">{{ new Date(r.made_at).toLocaleString('en-GB') }}</span>
            </p>
        </template>
    </template>
</template>

<style scoped>
.unfit {
    font-size: 13px;
    color: rgb(var(--v-theme-warning));
}
.problem {
    margin-top: 12px;
    padding: 8px 10px;
    border-left: 3px solid rgb(var(--v-theme-error));
    background: rgb(var(--v-theme-background));
}
.sheet {
    margin-top: 12px;
}
details {
    padding: 5px 0;
    border-top: 1px solid rgb(var(--v-theme-rule));
    font-size: 13px;
}
summary {
    cursor: pointer;
}
.evidence {
    display: block;
    font-weight: 400;
    font-size: 12px;
    opacity: 0.85;
}
.file {
    margin-top: 10px;
}
.hash {
    overflow-wrap: anywhere;
    font-size: 11px;
}
.earlier {
    display: flex;
    justify-content: space-between;
    padding: 4px 0;
}
.earlier button {
    cursor: pointer;
    text-decoration: underline;
    color: rgb(var(--v-theme-primary));
}
</style>
