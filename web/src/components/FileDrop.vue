<script setup lang="ts">
import { onMounted, onUnmounted, ref } from 'vue';
import { dropped } from '../files';
import { useBringIn } from '../stores/bringIn';
import { useJob } from '../stores/job';

const bringIn = useBringIn();
const jobs = useJob();
const over = ref(false);

const carriesFiles = (e: DragEvent) => e.dataTransfer?.types.includes('Files');
function drag(e: DragEvent) {
    if (!carriesFiles(e)) return;
    e.preventDefault();
    over.value = true;
}
function leave(e: DragEvent) {
    if (!e.relatedTarget) over.value = false;
}
function drop(e: DragEvent) {
    over.value = false;
    if (!carriesFiles(e)) return;
    e.preventDefault();
    // What is handed over has to be asked for before the event is over.
    const handed = e.dataTransfer && dropped(e.dataTransfer);
    if (handed) void jobs.guarded(async () => bringIn.bring(await handed));
}
onMounted(() => {
    window.addEventListener('dragover', drag);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
});
onUnmounted(() => {
    window.removeEventListener('dragover', drag);
    window.removeEventListener('dragleave', leave);
    window.removeEventListener('drop', drop);
});
</script>

<template>
    <div v-if="over" class="drop"><span class="heading">Drop to bring in: each file a part</span></div>
</template>

<style scoped>
.drop {
    position: fixed;
    inset: 0;
    z-index: 3000;
    display: grid;
    place-items: center;
    border: 4px dashed rgb(var(--v-theme-primary));
    background: rgba(var(--v-theme-background), 0.85);
    pointer-events: none;
}
</style>
