<script setup lang="ts">
// Lengths, radii and angles by picks, and those kept as notes.
import * as f from '../../format';
import { measureKinds, useMeasures } from '../../stores/measures';
import { usePicks } from '../../tools/picking/picks';

const measures = useMeasures();
const picks = usePicks();
</script>

<template>
    <div class="d-flex flex-wrap ga-2">
        <v-btn
            v-for="k in measureKinds"
            :key="k.key"
            size="small"
            variant="outlined"
            :data-testid="`measure-${k.key}`"
            @click="measures.begin(k.key)"
            >{{ k.name }}</v-btn
        >
    </div>
    <p v-if="picks.picking" class="soft" data-testid="measure-hint">{{ picks.picking.hint }}</p>
    <p v-if="measures.trouble" role="alert">{{ measures.trouble }}</p>
    <div v-if="measures.last" class="last" data-testid="measured">
        <p class="figure">{{ f.told(measures.last.measured.text) }}</p>
        <v-btn size="x-small" variant="outlined" data-testid="keep-measure" @click="measures.keep()"
            >Keep as a note</v-btn
        >
    </div>
    <ul v-if="measures.kept.length" class="list" data-testid="notes">
        <li v-for="(m, n) in measures.kept" :key="m.name">
            <b>{{ m.name }}</b>
            <span class="figure">{{
                ((got) => (typeof got === 'string' ? got : got ? f.told(got.text) : '…'))(
                    measures.told.get(m.name),
                )
            }}</span>
            <button type="button" :aria-label="`Remove ${m.name}`" @click="measures.remove(n)">✕</button>
        </li>
    </ul>
</template>

<style scoped>
.last {
    margin: 8px 0;
    padding: 6px 10px;
    border-left: 3px solid rgb(var(--v-theme-primary));
    background: rgb(var(--v-theme-background));
}
.list {
    list-style: none;
    margin: 8px 0 0;
}
.list li {
    display: flex;
    gap: 8px;
    padding: 3px 0;
}
.list span {
    flex: 1;
}
.list button {
    cursor: pointer;
}
</style>
