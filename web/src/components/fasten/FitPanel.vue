<script setup lang="ts">
// Two threads of the job screwed into each other, in the computation.
import { computed } from 'vue';
import { keyOf } from '../../fitPair';
import { useFasten } from '../../stores/fasten';
import { useFits } from '../../stores/fits';
import FoldPanel from '../weigh/FoldPanel.vue';
import FitResult from './FitResult.vue';

const fasten = useFasten();
const fits = useFits();
const of = (gender: 'internal' | 'external') =>
    computed(() => {
        const held = fasten.all.filter((h) => h.thread.mark.gender === gender);
        // Of many alike of one step one stands for all, the chosen one if it is among them.
        const same = (a: (typeof held)[number]) => `${a.part} ${a.thread.step} ${a.thread.mark.name}`;
        const chosen = [fits.bore, fits.pin];
        const shown = held.filter((h, i) => {
            const alike = held.filter((o) => same(o) === same(h));
            const picked = alike.find((o) => chosen.includes(keyOf(o)));
            return picked ? picked === h : held.findIndex((o) => same(o) === same(h)) === i;
        });
        return shown.map((h) => ({
            value: keyOf(h),
            title: `${h.partName}: ${h.thread.mark.name}, step ${h.thread.step}`,
        }));
    });
const bores = of('internal');
const pins = of('external');
</script>

<template>
    <FoldPanel
        v-if="bores.length && pins.length"
        name="Fit"
        hint="Whether a pin goes into a bore, and how far"
    >
        <v-select v-model="fits.bore" class="mt-2" label="Bore" :items="bores" data-testid="fit-bore" />
        <v-select v-model="fits.pin" class="mt-2" label="Pin" :items="pins" data-testid="fit-pin" />
        <v-btn
            size="small"
            variant="outlined"
            class="mt-2"
            :disabled="!fits.sides || !!fasten.task"
            data-testid="check-fit"
            @click="fits.check()"
            >Screw it in</v-btn
        >
        <FitResult v-if="!fits.inNote" />
    </FoldPanel>
</template>
