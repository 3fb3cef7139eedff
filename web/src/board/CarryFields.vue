<script setup lang="ts">
// Lines carried down from parts: their cut at the board, what is seen of them, their rims, their edges. They follow the parts.
import { computed, ref } from 'vue';
import type { Schemas } from '../api/client';
import { useBench } from '../stores/bench';
import { useBoard } from '../stores/board';
import { useCarrying } from '../stores/carrying';
import { useJob } from '../stores/job';
import ChoiceRow from '../tools/fields/ChoiceRow.vue';

type Carries = Schemas['Carries'];
const board = useBoard();
const bench = useBench();
const jobs = useJob();
const carrying = useCarrying();
const kinds: { value: Carries; title: string }[] = [
    { value: 'cut', title: 'Cut' },
    { value: 'silhouette', title: 'Silhouette' },
    { value: 'rims', title: 'Rims' },
    { value: 'edges', title: 'Edges' },
];
const what = ref<Carries>('cut');
const part = ref<number | null>(null);
/** Parts that are no profiles can be cut and seen. */
const parts = computed(() => jobs.parts.filter((p) => !p.figures.drawn));
const name = (id: number | null | undefined) =>
    jobs.parts.find((p) => p.id === (id ?? bench.part?.id))?.name ?? 'the part';
</script>

<template>
    <div class="carry" data-enter="own">
        <label class="soft">
            Of
            <select v-model="part" data-testid="carry-part">
                <option :value="null">{{ bench.part?.name }}</option>
                <option v-for="p in parts.filter((p) => p.id !== bench.part?.id)" :key="p.id" :value="p.id">
                    {{ p.name }}
                </option>
            </select>
        </label>
        <ChoiceRow
            label="What is carried down"
            :items="kinds"
            :value="what"
            name="carry-what"
            @change="what = $event as Carries"
        />
        <v-btn
            size="small"
            variant="outlined"
            :loading="carrying.busy"
            data-testid="carry-down"
            @click="carrying.add(what, part)"
            >Carry down</v-btn
        >
        <ul v-if="board.drawing.carried.length">
            <li v-for="c in board.drawing.carried" :key="c.name">
                <span
                    ><b>{{ c.name }}</b> {{ kinds.find((k) => k.value === c.what)?.title }} of
                    {{ name(c.part) }}</span
                >
                <span class="d-flex ga-1">
                    <v-btn
                        size="small"
                        variant="outlined"
                        :title="`Its lines stay as they are and no longer follow ${name(c.part)}`"
                        :data-testid="`carried-free-${c.name}`"
                        @click="carrying.free(c.name)"
                        >Set free</v-btn
                    >
                    <v-btn
                        size="small"
                        variant="outlined"
                        :data-testid="`carried-away-${c.name}`"
                        @click="carrying.away(c.name)"
                        >Take away</v-btn
                    >
                </span>
            </li>
        </ul>
    </div>
</template>

<style scoped>
.carry {
    margin-top: 4px;
    padding: 4px 8px 8px;
    border-left: 2px solid rgb(var(--v-theme-rule));
}
select {
    margin-left: 6px;
    padding: 2px 4px;
    color: inherit;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 3px;
    background: rgb(var(--v-theme-background));
}
ul {
    margin-top: 6px;
    font-size: 13px;
    list-style: none;
}
li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
    padding: 2px 0;
}
</style>
