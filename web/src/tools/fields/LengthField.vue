<script setup lang="ts">
// A number with its unit: forecast a moment after the last keystroke, and never with nonsense.
import { computed, inject, onUnmounted, ref, watch } from 'vue';
import { perMillimetre, units } from '../../format';
import { useForecast } from '../../stores/forecast';
import { wrongFigure, type Described } from './describe';
import { OF_THE_STEP } from './ofTheStep';

const props = withDefaults(
    defineProps<{
        label: string;
        value: number | null | undefined;
        suffix?: string;
        /** What an empty field means; without it the field may not be empty. */
        empty?: string;
        hint?: string;
        /** Whether it may be negative or nought, where there is no description. */
        signed?: boolean;
        /** What it may be; above 0 unless it is signed otherwise. */
        limits?: Described;
        testid?: string;
    }>(),
    { suffix: 'mm', empty: undefined, hint: undefined, limits: undefined, testid: undefined },
);
const emit = defineEmits<{ change: [value: number | null] }>();
const text = ref('');
/** Runs from the last keystroke until what is typed is told. */
let timer = 0;
/** Lengths are shown in the chosen unit, and are millimetres all the same. */
const by = computed(() => (props.suffix === 'mm' ? perMillimetre() : 1));
const shown = computed(() => (props.suffix === 'mm' ? units.length : props.suffix));
const tidy = (x: number) => Number(x.toPrecision(12));
const read = (t: string) => tidy(Number(t.trim().replace(',', '.')) / by.value);
const written = (x: number) => String(by.value === 1 ? x : Number((x * by.value).toPrecision(6)));
watch(
    [() => props.value, by],
    ([now], before) => {
        if (before[1] !== undefined && before[1] !== by.value) text.value = '';
        // What is being typed stays as it is typed, whatever else changes meanwhile.
        else if (timer) return;
        if (text.value.trim() === '' || read(text.value) !== now)
            text.value = now == null ? '' : written(now);
    },
    { immediate: true },
);
const limits = computed<Described>(() => props.limits ?? (props.signed ? {} : { exclusiveMinimum: 0 }));
const wrong = (t: string) => {
    if (t.trim() === '') return props.empty === undefined ? 'A figure is needed here' : '';
    const value = read(t);
    if (!Number.isFinite(value)) return 'This is not a number';
    return wrongFigure(limits.value, value, by.value, shown.value);
};
const forecast = inject(OF_THE_STEP, false) ? useForecast() : null;
const me = Symbol('field');
function told() {
    window.clearTimeout(timer);
    timer = 0;
    forecast?.typed.delete(me);
    forecast?.wrong.delete(me);
}
function tell() {
    told();
    emit('change', text.value.trim() === '' ? null : read(text.value));
}
function typed(t: string) {
    told();
    text.value = t;
    if (wrong(t)) {
        forecast?.wrong.add(me);
        return;
    }
    forecast?.typed.set(me, tell);
    timer = window.setTimeout(tell, 350);
}
onUnmounted(told);
</script>

<template>
    <v-text-field
        class="mt-2"
        :model-value="text"
        :label="empty ? `${label} (empty: ${empty})` : label"
        :suffix="shown"
        inputmode="decimal"
        :error-messages="wrong(text)"
        :hint="hint"
        :persistent-hint="!!hint"
        :data-testid="testid"
        @update:model-value="typed"
    />
</template>
