<script setup lang="ts">
// The card of the first walk: where one is, what to do there, and on.
import { mdiCheckCircleOutline, mdiClose } from '@mdi/js';
import { computed } from 'vue';
import { useWalk } from '../stores/walk';
import { stops } from '../walk';

const walk = useWalk();
const last = computed(() => walk.at === stops.length - 1);
</script>

<template>
    <aside v-if="walk.stop" class="walk" aria-label="First walk" data-testid="walk">
        <div class="d-flex align-center">
            <p class="small-caps flex-grow-1">First walk, {{ walk.at! + 1 }} of {{ stops.length }}</p>
            <v-btn
                :icon="mdiClose"
                size="x-small"
                variant="text"
                aria-label="Leave the walk"
                data-testid="walk-leave"
                @click="walk.leave()"
            />
        </div>
        <p class="heading">{{ walk.stop.name }}</p>
        <p v-if="!walk.part" class="soft">Waiting for the demo…</p>
        <template v-else>
            <p>{{ walk.stop.says }}</p>
            <p v-if="walk.stop.does" class="does" data-testid="walk-does">
                <v-icon v-if="walk.done" :icon="mdiCheckCircleOutline" size="17" color="success" />
                {{ walk.stop.does }}
            </p>
        </template>
        <div class="d-flex ga-2 mt-2">
            <v-btn v-if="walk.at" size="small" variant="text" @click="walk.go(-1)">Back</v-btn>
            <v-btn
                size="small"
                :variant="walk.done ? 'flat' : 'outlined'"
                color="primary"
                data-testid="walk-on"
                @click="walk.go(1)"
                >{{ last ? 'That was it' : walk.done ? 'Go on' : 'Skip' }}</v-btn
            >
        </div>
    </aside>
</template>

<style scoped>
.walk {
    position: absolute;
    left: 12px;
    bottom: 56px;
    z-index: 5;
    width: min(330px, calc(100% - 24px));
    padding: 10px 12px;
    border: 1px solid rgb(var(--v-theme-primary));
    border-radius: 6px;
    background: rgb(var(--v-theme-surface));
}
.does {
    margin-top: 4px;
    font-weight: 600;
}
</style>
