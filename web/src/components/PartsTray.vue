<script setup lang="ts">
import { mdiEyeOffOutline, mdiEyeOutline } from '@mdi/js';
import { useBench } from '../stores/bench';
import { useJob } from '../stores/job';
import { stateOf as look } from '../text';

const jobs = useJob();
const bench = useBench();
const shown = (id: number) => bench.shownParts.some((p) => p.id === id);
</script>

<template>
    <div class="tray" role="group" aria-label="Parts tray">
        <div
            v-for="part in jobs.parts"
            :key="part.id"
            class="part"
            :class="{ chosen: part.id === bench.part?.id }"
            :data-testid="`part-${part.name}`"
        >
            <button
                type="button"
                class="name"
                :aria-pressed="part.id === bench.part?.id"
                :title="`${part.name}, ${look(part).title}`"
                @click="bench.selectPart(part.id)"
            >
                <v-icon :icon="look(part).icon" :color="look(part).colour" size="17" />
                <span class="text">{{ part.name }}</span>
                <span class="state">{{ look(part).word }}</span>
            </button>
            <button
                type="button"
                class="eye"
                :aria-pressed="bench.pinned.has(part.id)"
                :aria-label="
                    bench.pinned.has(part.id)
                        ? `Do not keep ${part.name} in view`
                        : `Keep ${part.name} in view`
                "
                :title="bench.pinned.has(part.id) ? 'Kept in view' : 'Keep in view beside others'"
                @click="bench.togglePin(part.id)"
            >
                <v-icon :icon="shown(part.id) ? mdiEyeOutline : mdiEyeOffOutline" size="17" />
            </button>
        </div>
    </div>
</template>

<style scoped>
.tray {
    display: flex;
    gap: 6px;
    overflow-x: auto;
    scrollbar-width: none;
    padding: 4px;
}
.part {
    display: flex;
    flex: none;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    background: rgb(var(--v-theme-background));
}
.chosen {
    border-color: rgb(var(--v-theme-primary));
    box-shadow: inset 0 -2px 0 rgb(var(--v-theme-primary));
}
button {
    display: flex;
    align-items: center;
    gap: 6px;
    padding: 4px 8px;
    cursor: pointer;
}
.text {
    font-weight: 500;
    max-width: 150px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
}
.state {
    font-size: 12px;
    opacity: 0.8;
}
.eye {
    padding: 4px 6px 4px 0;
    opacity: 0.75;
}
</style>
