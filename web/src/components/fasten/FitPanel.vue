<script setup lang="ts">
// Two threads of the job screwed into each other, in the computation.
import { computed, ref, watch } from 'vue';
import { useBench } from '../../stores/bench';
import { useFasten, type Held } from '../../stores/fasten';
import FoldPanel from '../weigh/FoldPanel.vue';

const fasten = useFasten();
const bench = useBench();
const keyOf = (h: Held) => `${h.part} ${h.thread.step} ${h.thread.mark.face}`;
const of = (gender: 'internal' | 'external') =>
    computed(() => {
        const held = fasten.all.filter((h) => h.thread.mark.gender === gender);
        // Of many alike in a part one stands for all.
        const first = held.filter(
            (h, i) =>
                held.findIndex((o) => o.part === h.part && o.thread.mark.name === h.thread.mark.name) === i,
        );
        return first.map((h) => ({ value: keyOf(h), title: `${h.partName}: ${h.thread.mark.name}` }));
    });
const bores = of('internal');
const pins = of('external');
const bore = ref<string | null>(null);
const pin = ref<string | null>(null);
/** The pair that is likeliest meant: of one pitch and hand, on the part on the bench. */
watch(
    () => fasten.all,
    (all) => {
        const there = (key: string | null) => all.some((h) => keyOf(h) === key);
        if (there(bore.value) && there(pin.value)) return;
        const side = (g: 'internal' | 'external') => all.filter((h) => h.thread.mark.gender === g);
        const alike = (a: Held, b: Held) =>
            a.thread.mark.pitch === b.thread.mark.pitch &&
            !!a.thread.mark.thread.left === !!b.thread.mark.thread.left;
        const mine = (h: Held) => Number(h.part === bench.part?.id);
        const pairs = side('internal').flatMap((a) => side('external').map((b) => [a, b] as const));
        const worth = ([a, b]: readonly [Held, Held]) => Number(alike(a, b)) * 4 + mine(a) + mine(b);
        const best = pairs.sort((x, y) => worth(y) - worth(x))[0];
        bore.value = best ? keyOf(best[0]) : null;
        pin.value = best ? keyOf(best[1]) : null;
    },
    { immediate: true },
);
function check() {
    const find = (key: string | null) => fasten.all.find((h) => keyOf(h) === key);
    const [internal, external] = [find(bore.value), find(pin.value)];
    if (internal && external) void fasten.check(internal, external);
}
</script>

<template>
    <FoldPanel
        v-if="bores.length && pins.length"
        name="Fit"
        hint="Whether a pin goes into a bore, and how far"
    >
        <v-select v-model="bore" class="mt-2" label="Bore" :items="bores" data-testid="fit-bore" />
        <v-select v-model="pin" class="mt-2" label="Pin" :items="pins" data-testid="fit-pin" />
        <v-btn
            size="small"
            variant="outlined"
            class="mt-2"
            :disabled="!bore || !pin || !!fasten.task"
            data-testid="check-fit"
            @click="check"
            >Screw it in</v-btn
        >
        <div v-if="fasten.fit" class="fit" :class="{ no: !fasten.fit.report.fits }" data-testid="fit">
            <p class="heading">
                {{ fasten.fit.of }}: {{ fasten.fit.report.fits ? 'goes together' : 'does not go together' }}
            </p>
            <p v-for="t in fasten.fit.report.told" :key="t">{{ t }}</p>
        </div>
    </FoldPanel>
</template>

<style scoped>
.fit {
    margin-top: 8px;
    padding: 6px 10px;
    border-left: 3px solid rgb(var(--v-theme-success));
    background: rgb(var(--v-theme-background));
}
.fit.no {
    border-left-color: rgb(var(--v-theme-error));
}
</style>
