<script setup lang="ts">
// The worksheet of the board: its plane, the pens, the changes, the list of lines.
import type { Action } from '../../../api/client';
import ChangeTools from '../../../board/ChangeTools.vue';
import LineList from '../../../board/LineList.vue';
import QuarrelRows from '../../../board/QuarrelRows.vue';
import PenRow from '../../../board/PenRow.vue';
import { useBoard } from '../../../stores/board';
import PlaneFields from '../../fields/PlaneFields.vue';
import { usePicks } from '../../picking/picks';

type DrawProfile = Extract<Action, { kind: 'shape.profile' }>;
const { action: a } = defineProps<{ action: DrawProfile }>();
const picks = usePicks();
const board = useBoard();
</script>

<template>
    <details class="plane" :open="!a.lines.length">
        <summary data-testid="board-plane">The plane it lies in</summary>
        <PlaneFields :plane="a.plane" @change="picks.change({ ...a, plane: $event })" />
    </details>
    <PenRow />
    <p v-if="board.trouble" class="trouble" role="alert" data-testid="board-trouble">{{ board.trouble }}</p>
    <p v-else-if="board.done" class="soft" role="status" data-testid="board-done">{{ board.done }}</p>
    <QuarrelRows />
    <ChangeTools />
    <LineList />
</template>

<style scoped>
.plane summary {
    cursor: pointer;
    font-size: 13px;
}
.trouble {
    margin: 4px 0;
    color: rgb(var(--v-theme-error));
    font-size: 13px;
}
</style>
