<script setup lang="ts">
// Figures and rules that cannot all be held: nothing moved; one of them is let go, or the change is left.
import { useBoard } from '../stores/board';

const board = useBoard();
</script>

<template>
    <section v-if="board.quarrel" class="quarrel" role="alert" data-testid="quarrel">
        <p>
            <template v-if="board.quarrel.contenders.length > 1"
                >These cannot all be held as the lines lie. Nothing was changed.</template
            >
            <template v-else>This cannot be held as the lines lie. Nothing was changed.</template>
        </p>
        <ul>
            <li v-for="c in board.quarrel.contenders" :key="c.text">
                <span
                    ><b v-if="c.name">{{ c.name }}</b> {{ c.text }}</span
                >
                <v-btn
                    v-if="c.name"
                    size="small"
                    variant="outlined"
                    :data-testid="`let-go-${c.name}`"
                    @click="board.letGo(c.name)"
                    >Let go of it</v-btn
                >
                <v-btn v-else size="small" variant="outlined" @click="board.quarrel = null">Leave it</v-btn>
            </li>
        </ul>
    </section>
</template>

<style scoped>
.quarrel {
    margin: 6px 0;
    padding: 4px 0 4px 8px;
    font-size: 13px;
    border-left: 3px solid rgb(var(--v-theme-error));
}
ul {
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
