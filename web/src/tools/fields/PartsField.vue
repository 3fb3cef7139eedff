<script setup lang="ts">
// Other parts, chosen from the list or clicked in the view.
import { mdiCrosshairs } from '@mdi/js';
import { computed, inject, onMounted, onUnmounted } from 'vue';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { usePicks, type PartAsker } from '../picking/picks';
import { OF_THE_STEP } from './ofTheStep';

const {
    label,
    value,
    one,
    testid = 'with',
} = defineProps<{
    label: string;
    value: readonly number[];
    one?: boolean;
    testid?: string;
}>();
const emit = defineEmits<{ change: [ids: number[]] }>();
const bench = useBench();
const jobs = useJob();
const picks = usePicks();
const items = computed(() =>
    jobs.parts.filter((p) => p.id !== bench.part?.id).map((p) => ({ title: p.name, value: p.id })),
);
const asker: PartAsker = {
    chosen: () => value,
    toggle(id) {
        const held = value.includes(id);
        const others = one ? [] : value.filter((v) => v !== id);
        emit('change', held ? others : [...others, id]);
    },
};
const asking = computed(() => picks.partAsker === asker);
const ask = (on: boolean) => (picks.partAsker = on ? asker : null);
// A tool's parts are clicked at once; other fields ask for it.
const ofTheStep = inject(OF_THE_STEP, false);
// A wire is the path itself.
onMounted(() => ofTheStep && !bench.part?.figures.wire && ask(true));
onUnmounted(() => asking.value && ask(false));
</script>

<template>
    <div class="parts mt-2">
        <v-select
            :label="label"
            :multiple="!one"
            :chips="!one"
            :clearable="one"
            :items="items"
            :model-value="one ? (value[0] ?? null) : value"
            :data-testid="testid"
            @update:model-value="emit('change', ([] as number[]).concat($event ?? []))"
        />
        <v-btn
            :icon="mdiCrosshairs"
            size="small"
            :variant="asking ? 'flat' : 'text'"
            :color="asking ? 'primary' : undefined"
            :aria-pressed="asking"
            :aria-label="asking ? 'Parts are clicked in the view' : 'Click parts in the view'"
            :title="
                asking
                    ? 'Click parts in the view to choose them'
                    : 'Choose parts by clicking them in the view'
            "
            :data-testid="`${testid}-in-view`"
            @click="ask(!asking)"
        />
    </div>
</template>

<style scoped>
.parts {
    display: flex;
    align-items: center;
    gap: 4px;
}
</style>
