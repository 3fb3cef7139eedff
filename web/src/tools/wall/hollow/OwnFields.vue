<script setup lang="ts">
// The wall of a hollow part, and holes through it.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import { usePicks } from '../../picking/picks';
import { useWalls } from '../../../stores/walls';
import CheckRow from '../../fields/CheckRow.vue';
import StepFields from '../../fields/StepFields.vue';
import LengthField from '../../fields/LengthField.vue';

type Hollow = Extract<Action, { kind: 'wall.hollow' }>;
const { action: a } = defineProps<{ action: Hollow }>();
const picks = usePicks();
const walls = useWalls();
const drains = computed(() => a.drains ?? []);
const first = computed(() => drains.value[0] ?? null);
const all = (change: Partial<NonNullable<Hollow['drains']>[number]>) =>
    picks.change({ ...a, drains: drains.value.map((d) => ({ ...d, ...change })) });
const add = () =>
    picks.ask('Click the place of the drain.', 1, ([p]) => {
        if (!p) return;
        const diameter = first.value?.diameter ?? walls.asks?.drain ?? 4;
        picks.change({
            ...a,
            drains: [
                ...drains.value,
                { at: [...p.at], diameter: diameter || 4, plug: first.value?.plug ?? null },
            ],
        });
    });
</script>

<template>
    <StepFields :but="['drains']" />
    <div class="d-flex ga-2 mt-2 align-center">
        <v-btn size="small" variant="outlined" data-testid="add-drain" @click="add">Add a drain</v-btn>
        <span v-if="drains.length">{{ drains.length }} {{ drains.length === 1 ? 'drain' : 'drains' }}</span>
        <v-btn
            v-if="drains.length"
            size="x-small"
            variant="text"
            data-testid="clear-drains"
            @click="picks.change({ ...a, drains: [] })"
            >None</v-btn
        >
    </div>
    <template v-if="first">
        <LengthField
            label="Diameter"
            :value="first.diameter"
            testid="drain-diameter"
            @change="all({ diameter: $event! })"
        />
        <CheckRow
            :value="first.plug != null"
            label="A plug for each, 0.1 mm to spare"
            testid="plug"
            @change="all({ plug: $event ? 0.1 : null })"
        />
    </template>
</template>
