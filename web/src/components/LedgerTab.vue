<script setup lang="ts">
import { mdiPencilOutline, mdiRedo, mdiUndo } from '@mdi/js';
import { computed, ref, shallowReactive, watch } from 'vue';
import { answer, api, type Step } from '../api/client';

import { figure, millimetres, seconds, volume, whole } from '../format';
import { useBench } from '../stores/bench';
import { useJob } from '../stores/job';
import { states } from '../text';

const jobs = useJob();
const bench = useBench();
const names = computed(
    () =>
        new Map(
            jobs.job?.steps
                .filter((s) => s.number === s.part)
                .map((s) => [s.part, s.title.replace(/^Bring in /, '').replace(/\.[^.]+$/, '')]),
        ),
);
/** How far each state lies from what came in, asked for one after the other. */
const offs = shallowReactive(new Map<string, { text: string; title: string }>());
watch(
    () => jobs.job?.steps,
    async (steps) => {
        for (const s of steps ?? []) {
            const from = jobs.origin(s.part);
            if (!from || from === s.mesh || offs.has(s.mesh)) continue;
            const params = { path: { mesh: s.mesh, from } };
            const d = await answer(api.GET('/api/v1/meshes/{mesh}/deviation/{from}', { params })).catch(
                () => null,
            );
            if (!d) continue;
            offs.set(s.mesh, {
                text: `off what came in: ${millimetres(d.largest_back)} (mean ${millimetres(d.mean_back)})`,
                title:
                    `What came in lies at most ${millimetres(d.largest_back)} off; ` +
                    `with the new surfaces, at most ${millimetres(d.largest)} (mean ${millimetres(d.mean)})`,
            });
        }
    },
    { immediate: true },
);
const change = (s: Step) => {
    const { before, after } = s.report;
    return before && before.reason !== after.reason ? `${before.reason} → ${after.reason}` : after.reason;
};
/** The step whose name and note are being written. */
const written = ref<{ number: number; name: string; note: string } | null>(null);
const write = (s: Step) => {
    written.value = { number: s.number, name: s.name ?? '', note: s.note ?? '' };
};
async function keep() {
    const now = written.value;
    written.value = null;
    if (now) await jobs.label(now.number, now.name, now.note);
}
/** The steps of the part on the bench can be run on other files. */
const recipe = computed(() => {
    const [job, part] = [jobs.job, bench.part];
    return job && part ? `/api/v1/jobs/${job.id}/parts/${part.id}/recipe` : null;
});
</script>

<template>
    <div>
        <p v-if="!jobs.job?.steps.length" class="soft">
            The ledger is empty. Every step you take is kept here with its figures and can be undone.
        </p>
        <template v-else>
            <a
                v-if="recipe"
                class="recipe"
                :href="recipe"
                :download="`${bench.part!.name}.json`"
                data-testid="recipe"
                >Recipe of {{ bench.part!.name }}, to be run on other files</a
            >
            <div class="figures small-caps head">
                <span title="Naked edges">Naked</span><span>Volume</span><span>Triangles</span
                ><span>Move</span><span>Time</span>
            </div>
            <ol class="ledger" data-testid="ledger">
                <li
                    v-for="(s, i) in jobs.job.steps"
                    :key="s.number"
                    :class="{ undone: i >= jobs.job.cursor }"
                >
                    <div class="d-flex align-center ga-2">
                        <v-icon
                            :icon="states[s.report.after.state].icon"
                            :color="states[s.report.after.state].colour"
                            size="17"
                        />
                        <span class="title">{{ s.name ?? s.title }}</span>
                        <v-btn
                            size="x-small"
                            variant="text"
                            :icon="mdiPencilOutline"
                            :aria-label="`Name step ${s.number}`"
                            :data-testid="`write-${s.number}`"
                            @click="write(s)"
                        />
                        <v-btn
                            v-if="i !== jobs.job.cursor - 1"
                            size="x-small"
                            variant="outlined"
                            :prepend-icon="i >= jobs.job.cursor ? mdiRedo : mdiUndo"
                            :aria-label="
                                i >= jobs.job.cursor
                                    ? `Redo up to step ${s.number}`
                                    : `Undo back to step ${s.number}`
                            "
                            @click="jobs.moveTo(i + 1)"
                            >{{ i >= jobs.job.cursor ? 'redo to here' : 'back to here' }}</v-btn
                        >
                    </div>
                    <form v-if="written?.number === s.number" class="write" @submit.prevent="keep">
                        <v-text-field
                            v-model="written.name"
                            label="Name"
                            maxlength="200"
                            data-testid="step-name"
                        />
                        <v-textarea
                            v-model="written.note"
                            label="Note"
                            rows="2"
                            maxlength="4000"
                            data-testid="step-note"
                        />
                        <div class="d-flex ga-2">
                            <v-btn
                                size="small"
                                variant="flat"
                                color="primary"
                                type="submit"
                                data-testid="keep-name"
                                >Keep</v-btn
                            >
                            <v-btn size="small" variant="outlined" @click="written = null">Cancel</v-btn>
                        </div>
                    </form>
                    <p class="soft">
                        {{ names.get(s.part) }} · <template v-if="s.name">{{ s.title }} · </template
                        >{{ change(s) }}
                    </p>
                    <p v-if="s.note" class="note">{{ s.note }}</p>
                    <div class="figures figure">
                        <span>{{ whole(s.report.after.naked_edges) }}</span>
                        <span>{{
                            s.report.after.volume == null ? 'none' : volume(s.report.after.volume)
                        }}</span>
                        <span>{{ whole(s.report.after.triangles) }}</span>
                        <span>{{ s.report.before ? figure(s.report.largest_move) + ' mm' : '' }}</span>
                        <span>{{ s.report.seconds == null ? '' : seconds(s.report.seconds) }}</span>
                    </div>
                    <p v-for="d in s.report.done" :key="d" class="soft">{{ d }}</p>
                    <p v-for="l in s.report.left" :key="l" class="left">{{ l }}</p>
                    <p
                        v-if="s.report.change?.triangles_added || s.report.change?.triangles_removed"
                        class="figure soft"
                    >
                        +{{ whole(s.report.change.triangles_added) }} −{{
                            whole(s.report.change.triangles_removed)
                        }}
                        triangles
                    </p>
                    <p v-if="offs.get(s.mesh)" class="figure soft" :title="offs.get(s.mesh)!.title">
                        {{ offs.get(s.mesh)!.text }}
                    </p>
                </li>
            </ol>
        </template>
    </div>
</template>

<style scoped>
.ledger {
    list-style: none;
}
li {
    padding: 8px 0 8px 10px;
    border-left: 2px solid rgb(var(--v-theme-primary));
    border-bottom: 1px solid rgb(var(--v-theme-rule));
}
.figures {
    display: grid;
    grid-template-columns: 0.6fr 1.3fr 0.9fr 1fr 0.9fr;
    gap: 6px;
    margin-top: 3px;
    font-size: 12px;
}

.figures span {
    text-align: right;
    white-space: nowrap;
}
.head {
    position: sticky;
    top: -12px;
    z-index: 1;
    opacity: 1;
    padding: 10px 0 4px 12px;
    background: rgb(var(--v-theme-surface));
    border-bottom: 1px solid rgb(var(--v-theme-rule));
    line-height: 1.1;
}
.recipe {
    display: block;
    margin-bottom: 8px;
    font-size: 13px;
    color: rgb(var(--v-theme-primary));
}
.note {
    white-space: pre-wrap;
    font-style: italic;
}
.write {
    display: grid;
    gap: 8px;
    margin: 8px 0;
}
.undone {
    border-left-style: dashed;
    opacity: 0.72;
}
.title {
    flex: 1;
    font-weight: 500;
}
p {
    font-size: 13px;
    margin-top: 2px;
}
.left {
    color: rgb(var(--v-theme-warning));
}
</style>
