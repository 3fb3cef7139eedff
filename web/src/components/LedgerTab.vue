<script setup lang="ts">
import { mdiRedo, mdiUndo } from '@mdi/js';
import { computed, shallowReactive, watch } from 'vue';
import { answer, api, type Step } from '../api/client';
import { millimetres, volume, whole } from '../format';
import { useJob } from '../stores/job';
import { states } from '../text';

const jobs = useJob();
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
</script>

<template>
    <div>
        <p v-if="!jobs.job?.steps.length" class="soft">
            The ledger is empty. Every step you take is kept here with its figures and can be undone.
        </p>
        <ol v-else class="ledger" data-testid="ledger">
            <li v-for="(s, i) in jobs.job.steps" :key="s.number" :class="{ undone: i >= jobs.job.cursor }">
                <div class="d-flex align-center ga-2">
                    <v-icon
                        :icon="states[s.report.after.state].icon"
                        :color="states[s.report.after.state].colour"
                        size="17"
                    />
                    <span class="title">{{ s.title }}</span>
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
                <p class="soft">{{ names.get(s.part) }} · {{ change(s) }}</p>
                <p v-for="d in s.report.done" :key="d" class="soft">{{ d }}</p>
                <p v-for="l in s.report.left" :key="l" class="left">{{ l }}</p>
                <p v-if="s.report.change" class="figure soft">
                    +{{ whole(s.report.change.triangles_added) }} −{{
                        whole(s.report.change.triangles_removed)
                    }}
                    triangles · largest move {{ millimetres(s.report.largest_move) }}
                </p>
                <p v-if="offs.get(s.mesh)" class="figure soft" :title="offs.get(s.mesh)!.title">
                    {{ offs.get(s.mesh)!.text }}
                </p>
                <p v-if="s.report.after.volume != null" class="figure">{{ volume(s.report.after.volume) }}</p>
            </li>
        </ol>
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
