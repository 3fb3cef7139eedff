<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench';
import { useJob } from '../stores/job';
import { stations, type StationKey } from '../text';

const bench = useBench();
const jobs = useJob();

/** What is open at each station. */
const counts = computed<Partial<Record<StationKey, { n: number; what: string }>>>(() => {
    const blocking = bench.findings.filter((f) => f.severity === 'blocks').length;
    const unsealed = jobs.parts.filter(
        (p) => !p.figures.drawn && (p.figures.state !== 'sealed' || p.stopped != null),
    ).length;
    const walls = bench.wallFindings.filter((f) => f.severity === 'warns').length;
    return {
        wall: { n: walls, what: 'findings about walls and corners' },
        seal: { n: blocking, what: 'findings that block a solid' },
        release: { n: unsealed, what: 'parts that cannot be released yet' },
    };
});
</script>

<template>
    <nav class="rail" aria-label="Route">
        <button
            v-for="s in stations"
            :key="s.key"
            type="button"
            class="station"
            :class="{ here: bench.station === s.key }"
            :aria-current="bench.station === s.key ? 'step' : undefined"
            :data-testid="`station-${s.key}`"
            @click="bench.openStation(s.key)"
        >
            <span class="number figure">{{ s.number }}</span>
            <span class="words">
                <span class="heading">{{ s.name }}</span>
                <span class="hint">{{ s.hint }}</span>
            </span>
            <span
                v-if="counts[s.key]?.n"
                class="count figure"
                :title="`${counts[s.key]?.n} ${counts[s.key]?.what}`"
            >
                {{ counts[s.key]?.n }}<span class="d-sr-only"> {{ counts[s.key]?.what }}</span>
            </span>
        </button>
    </nav>
</template>

<style scoped>
.rail {
    display: flex;
    flex-direction: column;
    gap: 2px;
    padding: 8px 0;
    background: rgb(var(--v-theme-surface));
    border-right: 1px solid rgb(var(--v-theme-rule));
}
.station {
    display: grid;
    grid-template-columns: 24px 1fr auto;
    align-items: start;
    gap: 6px;
    padding: 8px 8px 8px 10px;
    text-align: left;
    border-left: 3px solid transparent;
    cursor: pointer;
}
.station:hover {
    background: rgb(var(--v-theme-background));
}
.here {
    background: rgb(var(--v-theme-background));
    border-left-color: rgb(var(--v-theme-primary));
}
.number {
    display: grid;
    place-items: center;
    width: 22px;
    height: 22px;
    border: 1px solid currentColor;
    border-radius: 50%;
}
.here .number {
    background: rgb(var(--v-theme-primary));
    border-color: rgb(var(--v-theme-primary));
    color: rgb(var(--v-theme-surface));
}
.words {
    display: flex;
    flex-direction: column;
}
.hint {
    font-size: 12px;
    opacity: 0.78;
}
.count {
    min-width: 20px;
    padding: 1px 5px;
    border-radius: 10px;
    text-align: center;
    color: rgb(var(--v-theme-surface));
    background: rgb(var(--v-theme-error));
}
</style>
