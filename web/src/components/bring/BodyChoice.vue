<script setup lang="ts">
// Which bodies of a file come in, each as a part of its own, or all of them as one.
import { computed, ref } from 'vue';
import type { OfferedBody, PickedBody } from '../../api/client';
import { size, whole } from '../../format';
import { states, wire } from '../../text';

const props = defineProps<{ bodies: readonly OfferedBody[]; exact: boolean }>();
const emit = defineEmits<{ choose: [bodies: PickedBody[] | null, chord: string] }>();

/** With more than this many a field to search in is worth its place. */
const MANY = 10;
const ticked = ref(new Set(props.bodies.filter((b) => b.triangles || b.wire).map((b) => b.body)));
const sought = ref('');
const chord = ref('0.02');
const listed = computed(() => {
    const words = sought.value.trim().toLowerCase();
    return props.bodies.filter((b) => b.name.toLowerCase().includes(words));
});
const all = computed(() => listed.value.every((b) => ticked.value.has(b.body)));
const okay = computed(() => !props.exact || Number(chord.value) > 0);
const state = (b: OfferedBody) => (b.wire ? wire : states[b.closed ? 'sealed' : 'open']);
const means = (b: OfferedBody) => {
    if (b.wire) return 'lines without a surface: they come in as a profile or a path';
    return b.closed ? 'closed' : 'open: it has naked edges';
};

function tick(b: OfferedBody) {
    if (!ticked.value.delete(b.body)) ticked.value.add(b.body);
}

function tickAll() {
    const on = !all.value;
    for (const b of listed.value)
        if (on) ticked.value.add(b.body);
        else ticked.value.delete(b.body);
}

function choose() {
    const picked = props.bodies.filter((b) => ticked.value.has(b.body));
    emit(
        'choose',
        picked.map(({ body, name, colour }) => ({ body, name, colour })),
        chord.value,
    );
}
</script>

<template>
    <div data-testid="body-choice">
        <p class="mb-1">
            <b>It holds {{ whole(bodies.length) }} bodies.</b> Which of them come in?
        </p>
        <v-text-field
            v-if="bodies.length > MANY"
            v-model="sought"
            label="Search by name"
            density="compact"
            class="mb-1"
            data-testid="body-search"
        />
        <label class="body">
            <input type="checkbox" :checked="all" data-testid="body-all" @change="tickAll" />
            <span class="soft">All{{ sought ? ' that are listed' : '' }}</span>
        </label>
        <div class="list">
            <label v-for="b in listed" :key="b.body" class="body ruled-top" :data-testid="`body-${b.body}`">
                <input type="checkbox" :checked="ticked.has(b.body)" @change="tick(b)" />
                <span v-if="b.colour" class="dot" :style="{ background: b.colour }" />
                <span class="what">
                    <span class="name">{{ b.name }}</span>
                    <span class="figure soft">{{ size(b.size) }}</span>
                </span>
                <v-icon :icon="state(b).icon" :color="state(b).colour" size="17" :title="means(b)" />
            </label>
        </div>
        <v-text-field
            v-if="exact"
            v-model="chord"
            class="mt-2"
            label="Chord"
            suffix="mm"
            hint="How far triangles may stand off the exact surfaces"
            persistent-hint
            density="compact"
            data-testid="body-chord"
        />
        <div class="d-flex flex-wrap ga-2 mt-2">
            <v-btn
                size="small"
                variant="flat"
                color="primary"
                :disabled="!ticked.size || !okay"
                data-testid="bodies-in"
                @click="choose"
                >Bring in {{ whole(ticked.size) }} {{ ticked.size === 1 ? 'part' : 'parts' }}</v-btn
            >
            <v-btn
                size="small"
                variant="outlined"
                :disabled="!okay"
                data-testid="bodies-joined"
                @click="emit('choose', null, chord)"
                >All as one part</v-btn
            >
        </div>
    </div>
</template>

<style scoped>
.list {
    max-height: 260px;
    overflow-y: auto;
}
.body {
    display: flex;
    align-items: center;
    gap: 8px;
    padding: 4px 2px;
    cursor: pointer;
}
.what {
    display: flex;
    flex: 1;
    flex-wrap: wrap;
    justify-content: space-between;
    gap: 0 8px;
    min-width: 0;
}
.name {
    overflow-wrap: break-word;
    min-width: 0;
}
.dot {
    flex: none;
    width: 10px;
    height: 10px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 50%;
}
</style>
