<script setup lang="ts">
import { computed, shallowReactive, watch } from 'vue';
import { answer, api } from '../api/client';

import { millimetres } from '../format';
import { useBench } from '../stores/bench';
import { useJob } from '../stores/job';
import { useSteps } from '../stores/steps';
import CompareStates from './ledger/CompareStates.vue';
import StepRow from './ledger/StepRow.vue';
import TaskProgress from './TaskProgress.vue';

const jobs = useJob();
const steps = useSteps();
const bench = useBench();
const names = computed(() => new Map(jobs.job?.parts.map((p) => [p.id, p.name])));
const held = computed(() => {
    const n = (jobs.job?.steps.length ?? 0) - (jobs.job?.cursor ?? 0);
    return n === 1 ? '1 step is held back' : `${n} steps are held back`;
});
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
/** The steps of the part on the bench can be run on other files. */
const recipe = computed(() => {
    const [job, part] = [jobs.job, bench.part];
    return job && part ? `/api/v1/jobs/${job.id}/parts/${part.id}/recipe` : null;
});
</script>

<template>
    <div>
        <p v-if="!jobs.job?.steps.length" class="soft">
            The ledger is empty. Every step you take is kept here with its figures and can be changed.
        </p>
        <template v-else>
            <CompareStates v-if="steps.compared" />
            <TaskProgress
                v-if="jobs.editing"
                :task="jobs.editing"
                what="Working the ledger out"
                @cancel="jobs.stopEdit()"
            />
            <a
                v-if="recipe"
                class="recipe"
                :href="recipe"
                :download="`${bench.part!.name}.json`"
                data-testid="recipe"
                >Recipe of {{ bench.part!.name }}, to be run on other files</a
            >
            <div v-if="jobs.parts.length > 1" class="whose" role="radiogroup" aria-label="Whose steps">
                <button
                    v-for="c in [false, true]"
                    :key="String(c)"
                    type="button"
                    role="radio"
                    :aria-checked="steps.own === c"
                    :data-testid="c ? 'own-steps' : 'all-steps'"
                    @click="steps.own = c"
                >
                    {{ c ? `Of ${bench.part?.name}` : 'All steps' }}
                </button>
            </div>
            <div class="figures small-caps head">
                <span title="Naked edges">Naked</span><span>Volume</span
                ><span title="The thinnest wall">Wall</span><span>Triangles</span><span>Move</span
                ><span>Time</span>
            </div>
            <ol class="ledger" aria-label="Steps" data-testid="ledger">
                <template v-for="(s, i) in jobs.job.steps" :key="s.number">
                    <li v-if="i === jobs.job.cursor" role="presentation" class="here" data-testid="here">
                        <span>Work stands here; {{ held }}</span>
                        <v-btn
                            size="x-small"
                            variant="flat"
                            color="primary"
                            data-testid="go-on"
                            @click="jobs.edit({ edit: 'work_at', cursor: jobs.job.steps.length })"
                            >Bring back</v-btn
                        >
                    </li>
                    <StepRow
                        v-if="steps.isListed(s)"
                        :step="s"
                        :place="i"
                        :part="names.get(s.part) ?? ''"
                        :off="offs.get(s.mesh)"
                    />
                </template>
            </ol>
        </template>
    </div>
</template>

<style scoped>
.ledger {
    list-style: none;
}
.ledger :deep(.figures),
.figures {
    display: grid;
    grid-template-columns: 0.5fr 1.3fr 0.8fr 0.9fr 0.9fr 0.8fr;
    gap: 6px;
    margin-top: 3px;
    font-size: 12px;
}
.ledger :deep(.figures span),
.figures span {
    text-align: right;
    white-space: nowrap;
}
.head {
    position: sticky;
    top: -12px;
    z-index: 1;
    opacity: 1;
    padding: 10px 4px 4px 12px;
    background: rgb(var(--v-theme-surface));
    border-bottom: 1px solid rgb(var(--v-theme-rule));
    line-height: 1.1;
}
.whose {
    display: flex;
    gap: 6px;
}
.whose button {
    padding: 2px 10px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 12px;
    font-size: 13px;
    cursor: pointer;
}
.whose button[aria-checked='true'] {
    border-color: rgb(var(--v-theme-primary));
    font-weight: 500;
}
.recipe {
    display: block;
    margin-bottom: 8px;
    font-size: 13px;
    color: rgb(var(--v-theme-primary));
}
.here {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
    padding: 5px 4px 5px 12px;
    background: rgb(var(--v-theme-background));
    border-top: 2px solid rgb(var(--v-theme-primary));
    font-size: 13px;
}
</style>
