<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import { useBench } from '../stores/bench';
import { useJob } from '../stores/job';
import { useTools } from '../stores/tools';
import { useWalk } from '../stores/walk';
import { lenses, stations, type StationKey } from '../text';

interface Hit {
    name: string;
    kind: string;
    /** Other words it is found by. */
    words?: string;
    go: () => void;
}

const bench = useBench();
const jobs = useJob();
const tools = useTools();
const walk = useWalk();
const text = ref('');
const at = ref(0);
const field = ref<{ focus: () => void }>();
const open = computed({ get: () => bench.dialog === 'search', set: (on) => !on && (bench.dialog = null) });

const all = computed<Hit[]>(() => [
    ...stations.map((s) => ({ name: s.name, kind: 'station', go: () => bench.openStation(s.key) })),
    ...tools.fitting().map((t) => ({
        name: t.name,
        kind: 'tool',
        words: t.words.join(' '),
        go: () => {
            bench.openStation(t.station as StationKey);
            void tools.start(t.key);
        },
    })),
    ...tools.lacking().map((t) => ({
        name: t.name,
        kind: `tool; ${t.lacking}`,
        words: t.words.join(' '),
        go: () => bench.openStation(t.station as StationKey),
    })),
    ...jobs.parts.map((p) => ({
        name: p.name,
        kind: `part, ${p.figures.reason}`,
        go: () => bench.selectPart(p.id),
    })),
    ...bench.findings.map((f) => ({
        name: f.title,
        kind: `finding, ${f.size}`,
        go: () => bench.selectFinding(f.key),
    })),
    ...lenses.map((l) => ({ name: `Lens: ${l.name}`, kind: 'setting', go: () => (bench.lens = l.key) })),
    ...tools.all.map((t) => ({
        name: `Manual: ${t.name}`,
        kind: 'help',
        words: t.words.join(' '),
        go: () => bench.showHelp(t.key),
    })),
    { name: 'Light or dark', kind: 'setting', go: () => (bench.dark = !bench.dark) },
    { name: 'Keys', kind: 'help', go: () => (bench.dialog = 'keys') },
    {
        name: 'First walk',
        kind: 'help',
        words: 'tutorial introduction begin learn how guide demo',
        go: () => void walk.start(),
    },
]);
/** What is called so comes before what is only found by another word, and that before what merely contains it. */
const rank = (h: Hit, words: readonly string[]) => {
    const name = h.name.toLowerCase();
    const begins = (text: string, w: string) => ` ${text.toLowerCase()}`.includes(` ${w}`);
    if (words[0] && name.startsWith(words[0])) return 0;
    if (words.every((w) => begins(name, w))) return 1;
    return words.every((w) => begins(`${name} ${h.words ?? ''}`, w)) ? 2 : 3;
};
const hits = computed(() => {
    const words = text.value.toLowerCase().split(/\s+/).filter(Boolean);
    return all.value
        .filter((h) => words.every((w) => `${h.name} ${h.kind} ${h.words ?? ''}`.toLowerCase().includes(w)))
        .sort((a, b) => rank(a, words) - rank(b, words))
        .slice(0, 9);
});

watch(open, async (on) => {
    text.value = '';
    await nextTick();
    if (on) field.value?.focus();
});
watch(text, () => (at.value = 0));

function go(hit: Hit | undefined) {
    if (!hit) return;
    bench.dialog = null;
    hit.go();
}
function move(by: number) {
    at.value = (at.value + by + hits.value.length) % Math.max(hits.value.length, 1);
}
</script>

<template>
    <v-dialog v-model="open" max-width="520" aria-label="Search">
        <v-card
            class="pa-3"
            @keydown.down.prevent="move(1)"
            @keydown.up.prevent="move(-1)"
            @keydown.enter.prevent="go(hits[at])"
        >
            <v-text-field
                ref="field"
                v-model="text"
                label="Tool, part, finding or setting"
                data-testid="search-field"
            />
            <ul role="listbox" aria-label="Found" class="mt-2">
                <li
                    v-for="(h, i) in hits"
                    :key="h.kind + h.name + i"
                    role="option"
                    :aria-selected="i === at"
                    @click="go(h)"
                >
                    <span>{{ h.name }}</span><span class="soft kind">{{ h.kind }}</span>
                </li>
            </ul>
            <p v-if="!hits.length" class="soft pa-2">Nothing is called that.</p>
        </v-card>
    </v-dialog>
</template>

<style scoped>
ul {
    list-style: none;
}
li {
    display: flex;
    justify-content: space-between;
    gap: 12px;
    padding: 6px 8px;
    border-radius: 4px;
    cursor: pointer;
}
li[aria-selected='true'] {
    background: rgb(var(--v-theme-background));
    outline: 1px solid rgb(var(--v-theme-primary));
}
.kind {
    font-size: 12.5px;
    text-align: right;
}
</style>
