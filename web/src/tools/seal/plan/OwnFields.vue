<script setup lang="ts">
// The dry run of a plan: its steps with what each does, to be struck out one by one.
import { computed, ref, watch } from 'vue';
import type { Action, PlanStage, Report } from '../../../api/client';
import { useForecast } from '../../../stores/forecast';
import { usePicks } from '../../picking/picks';

type Plan = Extract<Action, { kind: 'seal.plan' }>;
const props = defineProps<{ action: Plan }>();
const forecast = useForecast();
const picks = usePicks();
/** The last dry run stays in sight while the next is worked out. */
const steps = ref<NonNullable<Report['plan']>>([]);
watch(
    () => forecast.ready,
    (now) => now && (steps.value = now.report.plan ?? []),
    { immediate: true },
);
const struck = computed(() => new Set(props.action.skip ?? []));
function strike(stage: PlanStage, on: boolean) {
    const skip = (props.action.skip ?? []).filter((s) => s !== stage);
    picks.change({ ...props.action, skip: on ? skip : [...skip, stage] });
}
</script>

<template>
    <ol v-if="steps.length" class="plan" aria-label="Steps of the plan">
        <li v-for="s in steps" :key="s.stage" :class="{ struck: struck.has(s.stage) }">
            <label>
                <input
                    type="checkbox"
                    :checked="!struck.has(s.stage)"
                    :data-testid="`plan-${s.stage}`"
                    @change="strike(s.stage, ($event.target as HTMLInputElement).checked)"
                />
                <span class="title">{{ s.title }}</span>
            </label>
            <p v-for="d in s.done" :key="d" class="soft">{{ d }}</p>
            <p v-if="s.left_out" class="left">left out: {{ s.left_out }}</p>
            <p v-if="struck.has(s.stage)" class="soft">struck out</p>
            <p v-else class="soft">then {{ s.after }}</p>
        </li>
    </ol>
</template>

<style scoped>
.plan {
    margin: 8px 0;
    padding: 0;
    list-style: none;
}
li {
    padding: 5px 0;
    border-bottom: 1px solid rgb(var(--v-theme-rule));
    font-size: 13px;
}
label {
    display: flex;
    align-items: center;
    gap: 8px;
    cursor: pointer;
}
.title {
    font-weight: 500;
}
p {
    margin-left: 22px;
}
.struck .title {
    text-decoration: line-through;
}
.left {
    color: rgb(var(--v-theme-warning));
}
</style>
