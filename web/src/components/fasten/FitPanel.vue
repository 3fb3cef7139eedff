<script setup lang="ts">
// Two threads of the job screwed into each other, in the computation.
import { computed, ref, watch } from 'vue';
import { useFasten, type Held } from '../../stores/fasten';
import FoldPanel from '../weigh/FoldPanel.vue';

const fasten = useFasten();
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
const chosen = (list: { value: string }[], held: string | null) =>
    list.some((o) => o.value === held) ? held : (list[0]?.value ?? null);
watch(
    [bores, pins],
    () => {
        bore.value = chosen(bores.value, bore.value);
        pin.value = chosen(pins.value, pin.value);
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
