<script setup lang="ts">
// The wall of a shell, and faces with walls of their own.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import { usePicks } from '../../picking/picks';
import StepFields from '../../fields/StepFields.vue';
import LengthField from '../../fields/LengthField.vue';

type Shell = Extract<Action, { kind: 'wall.shell' }>;
const { action: a } = defineProps<{ action: Shell }>();
const picks = usePicks();
const walls = computed(() => a.walls ?? []);
const add = () =>
    picks.ask('Click a face that gets a wall of its own.', 1, ([p]) => {
        if (!p) return;
        const wall = Number((a.wall * 1.5).toPrecision(3));
        picks.change({ ...a, walls: [...walls.value, { face: p.face ?? [...p.at], wall }] } as Action);
    });
const set = (n: number, wall: number | null) =>
    picks.change({
        ...a,
        walls: walls.value.flatMap((w, i) => (i !== n ? [w] : wall ? [{ ...w, wall }] : [])),
    } as Action);
</script>

<template>
    <StepFields :but="['walls']" />
    <v-btn size="small" variant="outlined" class="mt-2" data-testid="add-face-wall" @click="add">
        A face with a wall of its own
    </v-btn>
    <LengthField
        v-for="(w, n) in walls"
        :key="n"
        :label="`Wall of face ${n + 1}`"
        empty="as all others"
        :value="w.wall"
        :testid="`face-wall-${n}`"
        @change="set(n, $event)"
    />
</template>
