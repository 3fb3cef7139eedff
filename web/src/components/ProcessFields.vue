<script setup lang="ts">
// How the job is made, and what that asks of walls, pins, slots, corners and drains.
import { computed, ref } from 'vue';
import * as f from '../format';
import { useJob } from '../stores/job';
import { useWalls, type Figure } from '../stores/walls';
import LengthField from '../tools/fields/LengthField.vue';

const jobs = useJob();
const walls = useWalls();
const open = ref(false);
const processes = computed(() => jobs.processes.map((p) => ({ value: p.key, title: p.name })));
const figures: { key: Figure; label: string; none?: string }[] = [
    { key: 'wall', label: 'Least wall' },
    { key: 'pin', label: 'Least pin' },
    { key: 'slot', label: 'Least slot' },
    { key: 'corner', label: 'Inner radius', none: 'any' },
    { key: 'drain', label: 'Drain', none: 'none' },
];
const said = computed(() =>
    figures
        .map(({ key, label, none }) => {
            const x = walls.asks?.[key] ?? 0;
            const text = x === 0 && none ? none : f.millimetres(x);
            return `${label.toLowerCase().replace('least ', '')} ${text}${walls.making[key] == null ? '' : '*'}`;
        })
        .join(', '),
);
</script>

<template>
    <v-select
        label="Made by"
        :items="processes"
        :model-value="walls.making.process"
        data-testid="process"
        @update:model-value="walls.choose($event)"
    />
    <button type="button" class="asks" :aria-expanded="open" data-testid="asks" @click="open = !open">
        {{ open ? '▾' : '▸' }} Asks for: {{ said }}
    </button>
    <div v-if="open" class="figures">
        <LengthField
            v-for="g in figures"
            :key="g.key"
            :label="g.label"
            :value="walls.asks?.[g.key] || null"
            :empty="g.none ?? (walls.making[g.key] == null ? undefined : 'as the process')"
            :hint="
                walls.making[g.key] == null
                    ? undefined
                    : `the process: ${f.millimetres(walls.process?.[g.key] ?? 0)}`
            "
            :testid="`asks-${g.key}`"
            @change="walls.ask(g.key, $event ?? (g.none ? 0 : null))"
        />
    </div>
</template>

<style scoped>
.asks {
    display: block;
    width: 100%;
    margin: 2px 0 8px;
    font-size: 12px;
    text-align: left;
    cursor: pointer;
}
.figures {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 8px;
}
</style>
