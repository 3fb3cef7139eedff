<script setup lang="ts">
// What is done to lines that are there: cut back, carried on, softened, joined, copied; and what is wrong, with its remedy.
import { computed, ref } from 'vue';
import type { Schemas } from '../api/client';
import CheckRow from '../tools/fields/CheckRow.vue';
import LengthField from '../tools/fields/LengthField.vue';
import { millimetres } from '../format';
import { useBoard, type Change } from '../stores/board';
import { useForesight } from '../stores/foresight';
import { usePen } from '../stores/pen';
import BandFields from './BandFields.vue';
import CarryFields from './CarryFields.vue';
import ChangeButton from './ChangeButton.vue';
import FlowFields from './FlowFields.vue';
import HoldFields from './HoldFields.vue';
import LetterFields from './LetterFields.vue';
import { aims } from './pens';

const board = useBoard();
const pen = usePen();
const foresight = useForesight();
const open = ref<'soften' | 'band' | 'copies' | 'carry' | null>(null);
const sharper = ref(5);
const seen = computed(() => board.view?.seen);
const gaps = computed(() => {
    const ends = seen.value?.ends ?? [];
    return ends.flatMap(({ nearest: near }, n) =>
        near && near.end > n && ends[near.end]?.nearest?.end === n ? [near.apart] : [],
    );
});
/** A reach that closes the gaps that look like one: those far narrower than the drawing. */
const reach = computed(() => {
    const size = Math.hypot(...(seen.value?.size ?? [1, 1]));
    const narrow = gaps.value.filter((g) => g < size * 0.02);
    if (!narrow.length) return null;
    // To two digits, upward.
    const power = 10 ** (Math.floor(Math.log10(Math.max(...narrow))) - 1);
    return Number((Math.ceil((Math.max(...narrow) / power) * 1.001) * power).toPrecision(2));
});
const free = computed(() => (seen.value?.ends.length ?? 0) - 2 * gaps.value.length);
const needless = computed(() => (seen.value?.doubles.length ?? 0) + (seen.value?.specks.length ?? 0));

const count = ref(4);
const step = ref<[number, number]>([20, 0]);
const centre = ref<[number, number]>([0, 0]);
const of = computed(() => [...board.chosen]);
const drawn = (shape: Schemas['Shape']): Change => ({ draw: { draw: [shape] } });
</script>

<template>
    <ul v-if="gaps.length || free > 0 || needless" class="wrong" data-testid="board-wrong">
        <li v-if="gaps.length">
            <span
                >{{ gaps.length === 1 ? '1 gap' : `${gaps.length} gaps` }},
                {{ millimetres(Math.min(...gaps)) }}</span
            >
            <ChangeButton v-if="reach" testid="board-join" :change="{ join: { reach } }"
                >Join within {{ millimetres(reach) }}</ChangeButton
            >
        </li>
        <li v-if="free > 0">
            <span>{{ free === 1 ? '1 end' : `${free} ends` }} with no end beside</span>
            <v-btn size="small" variant="outlined" @click="pen.takeAim('carry_on')">Carry on</v-btn>
        </li>
        <li v-if="needless">
            <span>{{ needless }} on other lines, or specks</span>
            <ChangeButton testid="board-tidy" :change="{ tidy: {} }">Take away</ChangeButton>
        </li>
    </ul>
    <div class="changes" role="group" aria-label="Changes">
        <button
            v-for="a in aims.filter((a) => a.aim !== 'corner' && (a.aim === 'letters' || board.lines.length))"
            :key="a.aim"
            type="button"
            :aria-pressed="pen.aim === a.aim"
            :data-testid="`aim-${a.aim}`"
            @click="pen.takeAim(pen.aim === a.aim ? null : a.aim)"
        >
            {{ a.name }}
        </button>
        <button
            v-if="board.lines.length"
            type="button"
            :aria-expanded="open === 'soften'"
            data-testid="open-soften"
            @click="open = open === 'soften' ? null : 'soften'"
        >
            Soften corners
        </button>
        <button
            v-if="board.lines.length"
            type="button"
            :aria-expanded="open === 'band'"
            data-testid="open-band"
            @click="open = open === 'band' ? null : 'band'"
        >
            Band
        </button>
        <button
            v-if="board.lines.length"
            type="button"
            :aria-expanded="open === 'copies'"
            data-testid="open-copies"
            @click="open = open === 'copies' ? null : 'copies'"
        >
            Copies
        </button>
        <button
            type="button"
            :aria-expanded="open === 'carry'"
            data-testid="open-carry"
            @click="open = open === 'carry' ? null : 'carry'"
        >
            Carry down
        </button>
    </div>
    <HoldFields v-if="pen.aim === 'hold'" />
    <LetterFields v-if="pen.aim === 'letters'" />
    <FlowFields v-if="pen.aim === 'flow'" />
    <div v-if="open === 'soften'" class="panel">
        <LengthField
            :label="pen.corner.flat ? 'Cut off' : 'Radius'"
            :value="pen.corner.radius"
            testid="soften-radius"
            @change="pen.corner.radius = $event!"
        />
        <LengthField label="Corners sharper than" suffix="°" :value="sharper" @change="sharper = $event!" />
        <CheckRow label="Cut off straight" :value="pen.corner.flat" @change="pen.corner.flat = $event" />
        <div class="d-flex ga-2">
            <ChangeButton testid="soften-all" :change="{ soften: { ...pen.corner, sharper } }"
                >All corners</ChangeButton
            >
            <v-btn
                size="small"
                variant="outlined"
                :aria-pressed="pen.aim === 'corner'"
                data-testid="soften-one"
                @click="pen.takeAim('corner')"
                >One by one</v-btn
            >
        </div>
    </div>
    <CarryFields v-if="open === 'carry'" />
    <div v-if="open === 'band'" class="panel"><BandFields /></div>
    <div v-if="open === 'copies'" class="panel">
        <p v-if="!of.length" class="soft">Choose the lines that are to be copied. Copies follow them.</p>
        <template v-else>
            <LengthField
                label="How many, with the line itself"
                suffix=""
                :value="count"
                testid="copies-count"
                @change="count = Math.round($event!)"
            />
            <div class="pair">
                <LengthField
                    label="Along x"
                    signed
                    :value="step[0]"
                    testid="copies-x"
                    @change="step = [$event!, step[1]]"
                />
                <LengthField
                    label="Along y"
                    signed
                    :value="step[1]"
                    testid="copies-y"
                    @change="step = [step[0], $event!]"
                />
            </div>
            <ChangeButton testid="copies-row" :change="drawn({ row: { of, step, count } })"
                >In a row</ChangeButton
            >
            <div class="pair">
                <LengthField
                    label="Middle at x"
                    signed
                    :value="centre[0]"
                    @change="centre = [$event!, centre[1]]"
                />
                <LengthField label="at y" signed :value="centre[1]" @change="centre = [centre[0], $event!]" />
            </div>
            <div class="d-flex flex-wrap ga-2">
                <ChangeButton testid="copies-ring" :change="drawn({ ring: { of, centre, count } })"
                    >In a ring</ChangeButton
                >
                <ChangeButton
                    :change="drawn({ mirrored: { of, from: centre, to: [centre[0], centre[1] + 1] } })"
                    >Left and right</ChangeButton
                >
                <ChangeButton
                    :change="drawn({ mirrored: { of, from: centre, to: [centre[0] + 1, centre[1]] } })"
                    >Up and down</ChangeButton
                >
                <ChangeButton :change="{ free: { lines: of } }">Set free</ChangeButton>
            </div>
        </template>
    </div>
    <!-- Below all buttons: none may move away from under the pointer. -->
    <p
        v-if="foresight.told"
        class="soft foreseen"
        :class="{ refusal: foresight.refusal }"
        data-testid="board-foreseen"
    >
        {{ foresight.told }}
    </p>
</template>

<style scoped>
.wrong {
    margin: 6px 0;
    list-style: none;
    font-size: 13px;
}
.wrong li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
    padding: 2px 0 2px 8px;
    border-left: 3px solid rgb(var(--v-theme-hazard));
}
.changes {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
}
.changes button {
    padding: 2px 8px;
    font-size: 13px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 3px;
    cursor: pointer;
}
.changes button[aria-pressed='true'],
.changes button[aria-expanded='true'] {
    border-color: rgb(var(--v-theme-primary));
    box-shadow: inset 0 0 0 1px rgb(var(--v-theme-primary));
}
.foreseen {
    margin-top: 4px;
    padding-left: 8px;
    border-left: 3px solid #b9821a;
}
.foreseen.refusal {
    border-color: rgb(var(--v-theme-error));
}
.panel {
    margin-top: 4px;
    padding: 4px 8px 8px;
    border-left: 2px solid rgb(var(--v-theme-rule));
}
.pair {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 8px;
}
</style>
