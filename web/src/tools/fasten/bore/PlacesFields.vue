<script setup lang="ts">
// Where bores go: clicked, typed or pasted, or laid out in a row, a ring or a grid.
import { computed, ref, watch } from 'vue';
import type { Action } from '../../../api/client';
import { perMillimetre, units } from '../../../format';
import { usePicks } from '../../picking/picks';
import ChoiceRow from '../../fields/ChoiceRow.vue';
import LengthField from '../../fields/LengthField.vue';
import PickLine from '../../fields/PickLine.vue';
import XyzFields from '../../fields/XyzFields.vue';

type Bore = Extract<Action, { kind: 'fasten.bore' }>;
type Spot = Extract<Bore['places'], { points: unknown }>['points'][number];
const { action: a } = defineProps<{ action: Bore }>();
const picks = usePicks();
const change = (places: Bore['places'], face = a.face) => picks.change({ ...a, places, face });
const ways = [
    { value: 'points', title: 'Places' },
    { value: 'row', title: 'Row' },
    { value: 'ring', title: 'Ring' },
    { value: 'grid', title: 'Grid' },
];
const way = computed(() => Object.keys(a.places)[0]!);
const at = (s: Spot | readonly number[]) => ('diameter' in s ? s.at : s) as readonly number[];
const first = computed<[number, number, number]>(() => {
    const p = a.places;
    const known =
        'points' in p ? p.points[0] : 'row' in p ? p.row.from : 'ring' in p ? p.ring.centre : p.grid.centre;
    return [...(known ? at(known as Spot) : [0, 0, 0])] as [number, number, number];
});
function setWay(to: string) {
    const [p, known] = [first.value, first.value.some((x) => x)];
    if (to === 'points') change({ points: known ? [p] : [] });
    else if (to === 'row') change({ row: { from: p, to: p, count: 4 } });
    else if (to === 'ring') change({ ring: { centre: p, diameter: 40, count: 6, turned: 0 } });
    else change({ grid: { centre: p, counts: [3, 2], spacing: [20, 20], turned: 0 } });
}

const row = computed(() => ('row' in a.places ? a.places.row : null));
const ring = computed(() => ('ring' in a.places ? a.places.ring : null));
const grid = computed(() => ('grid' in a.places ? a.places.grid : null));
/** Changes something of the layout. */
const lay = (part: object) =>
    change({ [way.value]: { ...(row.value ?? ring.value ?? grid.value), ...part } } as Bore['places']);
const set = (list: readonly number[], at: number, to: number) => list.map((x, i) => (i === at ? to : x));

/** The places as lines of figures, to be typed over or pasted from a table. */
const text = ref('');
const wrong = ref('');
const tidy = (x: number) => Number((x * perMillimetre()).toPrecision(7));
const written = computed(() =>
    'points' in a.places
        ? a.places.points
              .map((s) => [...at(s), ...('diameter' in s ? [s.diameter] : [])].map(tidy).join('  '))
              .join('\n')
        : '',
);
watch(written, (now) => (text.value = now), { immediate: true });
function read() {
    wrong.value = '';
    const lines = text.value
        .split('\n')
        .map((l) => l.trim())
        .filter(Boolean);
    const points: Spot[] = [];
    for (const [n, line] of lines.entries()) {
        const figures = line
            .split(/[\s;|]+|,(?=\s)/)
            .filter(Boolean)
            .map((x) => Number(x.replace(',', '.')) / perMillimetre());
        if (figures.length < 3 || figures.length > 4 || figures.some((x) => !Number.isFinite(x))) {
            wrong.value = `Line ${n + 1}: three figures are needed, x y z, and a diameter if it has its own`;
            return;
        }
        const [x, y, z, diameter] = figures as [number, number, number, number | undefined];
        points.push(diameter ? { at: [x, y, z], diameter } : [x, y, z]);
    }
    if (text.value.trim() !== written.value) change({ points });
}
</script>

<template>
    <ChoiceRow label="Laid out as" :items="ways" :value="way" name="places" @change="setWay" />
    <PickLine />
    <v-textarea
        v-if="'points' in a.places"
        v-model="text"
        class="mt-2 figure"
        :label="`x  y  z in ${units.length}, one place a line`"
        rows="3"
        auto-grow
        max-rows="8"
        :error-messages="wrong"
        data-testid="places-text"
        @change="read"
        @blur="read"
    />
    <template v-else-if="row">
        <XyzFields label="From" :value="row.from" testid="row-from" @change="lay({ from: $event })" />
        <XyzFields label="To" :value="row.to" testid="row-to" @change="lay({ to: $event })" />
        <LengthField
            label="How many"
            suffix=""
            :value="row.count"
            testid="row-count"
            @change="lay({ count: Math.round($event!) })"
        />
    </template>
    <template v-else-if="ring">
        <XyzFields
            label="Middle"
            :value="ring.centre"
            testid="ring-centre"
            @change="lay({ centre: $event })"
        />
        <div class="two">
            <LengthField
                label="Diameter"
                :value="ring.diameter"
                testid="ring-diameter"
                @change="lay({ diameter: $event })"
            />
            <LengthField
                label="How many"
                suffix=""
                :value="ring.count"
                testid="ring-count"
                @change="lay({ count: Math.round($event!) })"
            />
            <LengthField
                label="Turned"
                suffix="°"
                signed
                :value="ring.turned"
                testid="ring-turned"
                @change="lay({ turned: $event })"
            />
        </div>
    </template>
    <template v-else-if="grid">
        <XyzFields
            label="Middle"
            :value="grid.centre"
            testid="grid-centre"
            @change="lay({ centre: $event })"
        />
        <div class="two">
            <template v-for="(name, i) in ['Columns', 'Rows']" :key="name">
                <LengthField
                    :label="name"
                    suffix=""
                    :value="grid.counts[i]"
                    :testid="`grid-count-${i}`"
                    @change="lay({ counts: set(grid.counts, i, Math.round($event!)) })"
                />
                <LengthField
                    :label="`${name} apart`"
                    :value="grid.spacing[i]"
                    :testid="`grid-spacing-${i}`"
                    @change="lay({ spacing: set(grid.spacing, i, $event!) })"
                />
            </template>
            <LengthField
                label="Turned"
                suffix="°"
                signed
                :value="grid.turned"
                testid="grid-turned"
                @change="lay({ turned: $event })"
            />
        </div>
    </template>
</template>

<style scoped>
.two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 8px;
}
</style>
