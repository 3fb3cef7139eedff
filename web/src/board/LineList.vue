<script setup lang="ts">
// The drawing as a list: a row a line, each of which can be written; what is chosen here is lit on the board, and the other way round.
import { computed, nextTick, ref } from 'vue';
import { useBoard } from '../stores/board';
import { figureText, kindOf } from './draughts';

const board = useBoard();
/** Lines, then what is held. */
const rows = computed(() => [
    ...(board.shown?.rows ?? []),
    ...(board.shown?.draughts ?? []).map((d) => {
        const of = d.figure == null ? d.text : d.text.replace(/\s+\S+$/, '');
        const kind = kindOf(of);
        const figure = d.figure == null ? '' : figureText(d);
        return {
            name: d.name,
            kind,
            text: d.text,
            told: `${of.slice(kind.length + 1)}  ${figure}`.trim(),
        };
    }),
]);
const search = ref('');
const found = computed(() => {
    const words = search.value.toLowerCase().trim();
    return words
        ? rows.value.filter((r) => `${r.name} ${r.text} ${r.told}`.toLowerCase().includes(words))
        : rows.value;
});
/** Rows that are shown at once; more are found by searching. */
const MOST = 500;
/** The row that is being written. */
const open = ref<string | null>(null);
const text = ref('');
const fresh = ref('');
const field = ref<HTMLInputElement[]>([]);
/** Figures to as many digits as are read. */
const tidy = (row: string) => row.replace(/-?\d+\.\d{4,}/g, (x) => `${Number(Number(x).toFixed(3))}`);

async function write(name: string, row: string) {
    board.choose(name);
    open.value = name;
    text.value = row;
    await nextTick();
    field.value[0]?.focus();
}
async function written(name: string) {
    const row = rows.value.find((r) => r.name === name);
    if (!row || text.value === row.text || (await board.change({ write: { line: name, text: text.value } })))
        open.value = null;
}
async function add() {
    const written = fresh.value;
    if (!written.trim()) return;
    // The field is free for the next one at once; what is not understood comes back to it.
    fresh.value = '';
    // Several rows at once are taken as they are pasted.
    for (const row of written.split('\n').filter((r) => r.trim())) {
        if (await board.change({ write: { line: null, text: row } })) continue;
        fresh.value ||= written;
        return;
    }
}
const whole = ref<string | null>(null);
const openWhole = () => (whole.value = board.view?.list ?? '');
async function takeWhole() {
    if (whole.value !== null && (await board.change({ list: { text: whole.value } }))) whole.value = null;
}
const file = ref<HTMLInputElement>();
/** Lines of a drawing come beside those that are there. */
async function readFile() {
    const chosen = file.value?.files?.[0];
    if (!chosen || !file.value) return;
    file.value.value = '';
    await board.read(chosen);
}
const isHold = computed(() => board.drawing.holds.some((h) => h.name === board.chosen[0]));
</script>

<template>
    <section class="lines" aria-label="List of lines" data-enter="own">
        <div class="head">
            <span class="small-caps">Lines</span>
            <input
                v-if="rows.length > 8"
                v-model="search"
                type="search"
                placeholder="Search"
                aria-label="Search lines"
            />
            <button type="button" class="link first" data-testid="lines-file" @click="file?.click()">
                From a file
            </button>
            <input
                ref="file"
                type="file"
                hidden
                accept=".dxf,.svg"
                data-testid="lines-file-input"
                @change="readFile"
            />
            <button
                type="button"
                class="link"
                data-testid="lines-whole"
                @click="whole === null ? openWhole() : (whole = null)"
            >
                {{ whole === null ? 'As text' : 'As a list' }}
            </button>
        </div>
        <template v-if="whole !== null">
            <textarea
                v-model="whole"
                rows="10"
                spellcheck="false"
                aria-label="All lines as text"
                data-testid="lines-text"
                @keydown.stop
            />
            <v-btn size="small" variant="outlined" data-testid="lines-take" @click="takeWhole"
                >Take this list</v-btn
            >
        </template>
        <template v-else>
            <ol>
                <li
                    v-for="r in found.slice(0, MOST)"
                    :key="r.name"
                    :class="{ chosen: board.chosen.includes(r.name) }"
                >
                    <form v-if="open === r.name" @submit.prevent="written(r.name)">
                        <b>{{ r.name }}</b>
                        <input
                            ref="field"
                            v-model="text"
                            spellcheck="false"
                            :aria-label="`Row of line ${r.name}`"
                            data-testid="row-text"
                            @keydown.escape.stop="open = null"
                            @blur="written(r.name)"
                        />
                    </form>
                    <button
                        v-else
                        type="button"
                        :data-testid="`row-${r.name}`"
                        :title="`${tidy(r.text)} (click again to write it)`"
                        @click="
                            board.chosen.length === 1 && board.chosen[0] === r.name
                                ? write(r.name, r.text)
                                : board.choose(r.name, $event.shiftKey)
                        "
                        @dblclick="write(r.name, r.text)"
                    >
                        <b>{{ r.name }}</b>
                        <span>{{ r.kind }}</span>
                        <span class="figure">{{ r.told }}</span>
                    </button>
                </li>
            </ol>
            <p v-if="found.length > MOST" class="soft">{{ found.length - MOST }} more; search for them.</p>
            <form @submit.prevent="add">
                <input
                    v-model="fresh"
                    spellcheck="false"
                    class="fresh"
                    placeholder="circle at 20, 10 diameter 6.6 · length of a 40"
                    aria-label="Write a further line"
                    data-testid="row-new"
                />
            </form>
            <div v-if="board.chosen.length" class="d-flex ga-2 mt-1">
                <v-btn
                    size="small"
                    variant="outlined"
                    data-testid="lines-remove"
                    @click="board.removeChosen()"
                >
                    {{ isHold ? 'Let go of' : 'Take away' }}
                    {{ board.chosen.length > 1 ? `${board.chosen.length} lines` : board.chosen[0] }}
                </v-btn>
            </div>
        </template>
    </section>
</template>

<style scoped>
.lines {
    margin-top: 10px;
}
.head {
    display: flex;
    align-items: baseline;
    gap: 8px;
}
.head input {
    width: 90px;
}
.link.first {
    margin-left: auto;
}
.link {
    font-size: 12px;
    text-decoration: underline;
    cursor: pointer;
}
ol {
    max-height: 210px;
    overflow-y: auto;
    list-style: none;
    border: 1px solid rgb(var(--v-theme-rule));
    border-width: 1px 0;
}
ol:empty {
    display: none;
}
li button,
li form {
    display: grid;
    grid-template-columns: 34px 66px 1fr;
    align-items: baseline;
    width: 100%;
    padding: 2px 4px;
    font-size: 13px;
    text-align: left;
    cursor: pointer;
}
li form {
    grid-template-columns: 34px 1fr;
}
li.chosen {
    background: rgb(var(--v-theme-primary) / 14%);
}
li .figure {
    font-size: 12px;
    text-align: right;
}
input,
textarea {
    width: 100%;
    padding: 2px 6px;
    font:
        500 12px 'IBM Plex Mono',
        monospace;
    color: inherit;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 3px;
    background: rgb(var(--v-theme-background));
}
.fresh {
    margin-top: 4px;
    padding: 4px 6px;
}
</style>
