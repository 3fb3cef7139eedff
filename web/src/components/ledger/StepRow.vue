<script setup lang="ts">
// A step in the ledger: a line of the account, and what can be done about it once chosen.
import { mdiArchiveOutline, mdiDotsHorizontal, mdiProgressAlert, mdiTimerSandEmpty } from '@mdi/js';
import { computed, nextTick, ref, watch } from 'vue';
import type { Step } from '../../api/client';
import { figure, seconds, told, volume, whole } from '../../format';
import { canReopen, useSteps } from '../../stores/steps';
import { states } from '../../text';
import ReadAnew from './ReadAnew.vue';
import StepLabel from './StepLabel.vue';

const props = defineProps<{
    step: Step;
    place: number;
    part: string;
    off?: { text: string; title: string };
}>();
const steps = useSteps();
const chosen = computed(() => steps.chosen === props.step.number);
const held = computed(() => steps.isHeld(props.place));
const is = computed(() => props.step.state.is);
const stops = computed(() =>
    props.step.state.is === 'stopped' && props.step.state.new_pick ? 'needs a new pick' : 'stopped',
);
const look = computed(() => {
    const after = states[props.step.report.after.state];
    return {
        done: after,
        idle: { icon: mdiDotsHorizontal, colour: 'info', word: 'nothing to do' },
        parked: { icon: mdiArchiveOutline, colour: 'info', word: 'parked' },
        stopped: { icon: mdiProgressAlert, colour: 'error', word: stops.value },
        waiting: { icon: mdiTimerSandEmpty, colour: 'warning', word: 'waiting' },
    }[is.value];
});
const change = computed(() => {
    const { before, after } = props.step.report;
    return before && before.reason !== after.reason ? `${before.reason} → ${after.reason}` : after.reason;
});
const when = computed(() => {
    const at = new Date(props.step.at);
    const time = at.toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
    return [props.step.who, time].filter(Boolean).join(', ');
});
const row = ref<HTMLElement>();
watch(chosen, async (on) => {
    if (!on) return;
    await nextTick();
    row.value?.focus({ preventScroll: true });
    row.value?.scrollIntoView({ block: 'nearest' });
});
// What is asked stands below the figures: it comes into sight with them.
watch(
    () => chosen.value && (steps.writing || steps.reading || steps.asked?.step.number === props.step.number),
    async (on) => {
        if (!on) return;
        await nextTick();
        row.value?.scrollIntoView({ block: 'nearest' });
    },
);
defineExpose({ row });
</script>

<template>
    <li
        ref="row"
        :aria-current="chosen || undefined"
        :class="['step', is, { chosen, held }]"
        :tabindex="chosen || (steps.chosen === null && place === 0) ? 0 : -1"
        :data-testid="`step-${step.number}`"
        @click="steps.chosen = step.number"
        @keydown.enter.self.prevent="steps.reopen(step)"
        @keydown.delete.self.prevent="steps.ask('remove', step)"
        @keydown.up.self.prevent="steps.walk(-1)"
        @keydown.down.self.prevent="steps.walk(1)"
    >
        <div class="d-flex align-center ga-2">
            <v-icon :icon="look.icon" :color="look.colour" :title="look.word" size="17" />
            <span class="number figure">{{ step.number }}</span>
            <span class="title">{{ step.name ?? step.title }}</span>
            <span v-if="is !== 'done'" class="word">{{ look.word }}</span>
        </div>
        <p class="soft under">
            {{ part }} · <template v-if="step.name">{{ step.title }} · </template
            ><template v-if="is === 'done'">{{ change }}</template
            ><template v-else-if="step.state.is === 'waiting'"
                >waits for step {{ step.state.on }}, which is stopped</template
            ><template v-else-if="is === 'parked'">set aside; the part goes on without it</template
            ><span v-else-if="step.state.is === 'stopped' || step.state.is === 'idle'" :class="['why', is]">{{
                step.state.why
            }}</span>
        </p>
        <div v-if="is === 'done'" class="figures figure">
            <span>{{ whole(step.report.after.naked_edges) }}</span>
            <span>{{ step.report.after.volume == null ? 'none' : volume(step.report.after.volume) }}</span>
            <span>{{
                step.report.after.least_wall == null ? '' : `${figure(step.report.after.least_wall)} mm`
            }}</span>
            <span>{{ whole(step.report.after.triangles) }}</span>
            <span>{{ step.report.before ? figure(step.report.largest_move) + ' mm' : '' }}</span>
            <span>{{ step.report.seconds == null ? '' : seconds(step.report.seconds) }}</span>
        </div>
        <p v-if="step.note" class="note under">{{ step.note }}</p>
        <div v-if="chosen" class="more">
            <template v-if="is === 'done'">
                <p v-for="d in step.report.done" :key="d" class="soft">{{ told(d) }}</p>
                <p v-for="l in step.report.left" :key="l" class="left">{{ l }}</p>
                <p
                    v-if="step.report.change?.triangles_added || step.report.change?.triangles_removed"
                    class="figure soft"
                >
                    +{{ whole(step.report.change.triangles_added) }} −{{
                        whole(step.report.change.triangles_removed)
                    }}
                    triangles
                </p>
                <p v-if="off" class="figure soft" :title="off.title">{{ off.text }}</p>
            </template>
            <p class="soft">{{ when }}</p>
            <div v-if="steps.asked?.step.number === step.number" class="asked" data-testid="asked">
                <p>{{ steps.asked.words }}</p>
                <div class="d-flex ga-2 mt-2">
                    <v-btn
                        size="small"
                        variant="flat"
                        color="primary"
                        data-testid="yes"
                        @click="steps.yes()"
                        >{{ steps.asked.verb }}</v-btn
                    >
                    <v-btn size="small" variant="outlined" @click="steps.asked = null">Cancel</v-btn>
                </div>
            </div>
            <StepLabel v-else-if="steps.writing" :step="step" />
            <ReadAnew v-else-if="steps.reading" :step="step" />
            <div v-else class="acts">
                <button
                    v-for="act in steps.acts(step, place)"
                    :key="act.key"
                    type="button"
                    :class="{ first: act.key === 'reopen' && canReopen(step) }"
                    :title="act.hint"
                    :data-testid="`${act.key}-${step.number}`"
                    @click.stop="act.run()"
                >
                    {{ act.name }}
                </button>
            </div>
        </div>
    </li>
</template>

<style scoped>
.step {
    padding: 6px 4px 6px 10px;
    border-left: 2px solid rgb(var(--v-theme-primary));
    border-bottom: 1px solid rgb(var(--v-theme-rule));
    cursor: pointer;
    outline-offset: -2px;
}
.step.chosen {
    background: rgb(var(--v-theme-background));
}
.step.held,
.step.parked {
    border-left-style: dashed;
}
.step.held > *:not(.more),
.step.parked > *:not(.more) {
    opacity: 0.55;
}
.step.stopped,
.step.waiting {
    border-left-color: rgb(var(--v-theme-error));
}
.number {
    min-width: 1.4em;
    text-align: right;
    opacity: 0.7;
}
.title {
    flex: 1;
    font-weight: 500;
}
.word {
    font-size: 12px;
    opacity: 0.8;
}
p {
    font-size: 13px;
    margin-top: 2px;
}
.under {
    padding-left: 25px;
}
.why.stopped {
    color: rgb(var(--v-theme-error));
}
.left {
    color: rgb(var(--v-theme-warning));
}
.note {
    white-space: pre-wrap;
    font-style: italic;
}
.more {
    padding: 4px 0 4px 25px;
}
.asked {
    margin-top: 6px;
    padding: 8px 10px;
    border-left: 3px solid rgb(var(--v-theme-warning));
}
.acts {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 6px;
    margin-top: 6px;
}
.acts button {
    padding: 3px 8px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    font-size: 13px;
    cursor: pointer;
}
.acts button.first {
    border-color: rgb(var(--v-theme-primary));
    color: rgb(var(--v-theme-primary));
    font-weight: 500;
}
.acts button:hover {
    background: rgb(var(--v-theme-surface));
}
</style>
