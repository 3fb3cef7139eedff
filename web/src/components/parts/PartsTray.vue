<script setup lang="ts">
import { mdiDotsVertical, mdiEyeOffOutline, mdiEyeOutline, mdiFormatListBulleted } from '@mdi/js';
import { nextTick, ref, watch } from 'vue';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { useParts } from '../../stores/parts';
import { stateOf as look } from '../../text';

const jobs = useJob();
const bench = useBench();
const parts = useParts();
const tray = ref<HTMLElement>();
const shown = (id: number) => bench.shownParts.some((p) => p.id === id);

function openMenu(event: MouseEvent, part: number) {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    parts.menu = { part, x: box.left, y: box.bottom };
}
// The chosen part is in sight, however many there are.
watch(
    () => bench.part?.id,
    async () => {
        await nextTick();
        tray.value?.querySelector('.chosen')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    },
    { immediate: true },
);
</script>

<template>
    <div class="parts">
        <button
            type="button"
            class="list"
            title="List of parts (p)"
            :aria-label="`List of ${jobs.parts.length} parts`"
            data-testid="parts-list-open"
            @click="parts.listed = true"
        >
            <v-icon :icon="mdiFormatListBulleted" size="17" /><span class="figure">{{
                jobs.parts.length
            }}</span>
        </button>
        <div ref="tray" class="tray" role="group" aria-label="Parts tray">
            <div
                v-for="part in jobs.parts"
                :key="part.id"
                class="part"
                :class="{ chosen: part.id === bench.part?.id }"
                :style="
                    part.colour ? { borderBottomColor: part.colour, borderBottomWidth: '3px' } : undefined
                "
                :data-testid="`part-${part.name}`"
                @contextmenu.prevent="openMenu($event, part.id)"
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
                    v-if="part.id === bench.part?.id"
                    type="button"
                    class="more"
                    :aria-label="`Name, colour, copies of ${part.name}`"
                    title="Rename, colour, group, duplicate, delete"
                    data-testid="part-more"
                    @click="openMenu($event, part.id)"
                >
                    <v-icon :icon="mdiDotsVertical" size="17" />
                </button>
                <button
                    type="button"
                    class="eye"
                    :aria-pressed="bench.pinned.has(part.id)"
                    :aria-label="
                        bench.pinned.has(part.id)
                            ? `Do not show ${part.name} beside the chosen part`
                            : `Show ${part.name} beside the chosen part`
                    "
                    :title="
                        bench.pinned.has(part.id)
                            ? 'Shown beside the chosen part'
                            : 'Show it beside the chosen part'
                    "
                    @click="bench.togglePin(part.id)"
                >
                    <v-icon :icon="shown(part.id) ? mdiEyeOutline : mdiEyeOffOutline" size="17" />
                </button>
            </div>
        </div>
    </div>
</template>

<style scoped>
.parts {
    display: flex;
    align-items: center;
    gap: 2px;
}
.tray {
    display: flex;
    flex: 1;
    min-width: 0;
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
.eye,
.more {
    padding: 4px 6px 4px 0;
    opacity: 0.75;
}
</style>
