<script setup lang="ts">
import { mdiRedo, mdiUndo } from '@mdi/js';
import { computed } from 'vue';
import type { Step } from '../api/client';
import { volume } from '../format';
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
