<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Action } from '../api/client';
import { useForecast } from '../stores/forecast';
import { useBench } from '../stores/bench';
import { tools } from '../tools';
import GapWidths from './GapWidths.vue';

const forecast = useForecast();
const bench = useBench();
type Close = Extract<Action, { kind: 'seal.close_gaps' }>;
type Cover = Extract<Action, { kind: 'seal.cover_rim' }>;
type Drop = Extract<Action, { kind: 'seal.drop' }>;
type Bridge = Extract<Action, { kind: 'seal.bridge' }>;
type Lift = Extract<Action, { kind: 'seal.lift_out' | 'seal.re_skin' }>;
const is = <T extends Action>(kind: T['kind']) =>
    computed(() => (forecast.draft?.kind === kind ? (forecast.draft as T) : null));
const close = is<Close>('seal.close_gaps');
const cover = is<Cover>('seal.cover_rim');
const drop = is<Drop>('seal.drop');
const bridge = is<Bridge>('seal.bridge');
const lift = computed(() =>
    forecast.draft?.kind === 'seal.lift_out' || forecast.draft?.kind === 'seal.re_skin'
        ? (forecast.draft as Lift)
        : null,
);

const rims = computed(() => (bench.examination?.rims ?? []).filter((r) => r.closed));
const rimAt = (near: readonly number[] | undefined) =>
    rims.value.find((r) => r.pick.near.every((x, i) => x === near?.[i]))?.name;
function chooseRim(end: 'from' | 'to', name: string) {
    const pick = rims.value.find((r) => r.name === name)?.pick;
    if (pick && bridge.value) soon({ ...bridge.value, [end]: pick });
}

const reach = ref('');
const speck = ref('');
const height = ref('');
watch(close, (now) => now && (reach.value = String(now.reach)), { immediate: true });
watch(drop, (now) => now && (speck.value = now.specks_below == null ? '' : String(now.specks_below)), {
    immediate: true,
});

watch(cover, (now) => now && (height.value = now.height == null ? '' : String(now.height)), {
    immediate: true,
});

const length = (text: string) => {
    const value = Number(text.replace(',', '.'));
    return text.trim() !== '' && Number.isFinite(value) && value > 0 ? value : null;
};
const wrong = (text: string) => (length(text) == null ? 'A length above 0 mm, for example 0.1' : '');

/** Changed by hand, a step is the tool's, no longer the remedy's it began as. */
const toolName = (action: Action) =>
    tools.find((t) => `seal.${t.key}` === action.kind)?.name ?? forecast.title;

let timer = 0;
/** Forecasts anew a moment after the last keystroke. */
function soon(action: Action) {
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void forecast.consider(toolName(action), action), 350);
}
function typedReach(text: string) {
    reach.value = text;
    const value = length(text);
    if (value != null && close.value) soon({ ...close.value, reach: value });
}
function typedHeight(text: string) {
    height.value = text;
    const value = Number(text.replace(',', '.'));
    if (cover.value && Number.isFinite(value))
        soon({ ...cover.value, height: text.trim() === '' ? null : value });
}
function typedSpeck(text: string) {
    speck.value = text;
    if (drop.value) soon({ ...drop.value, specks_below: length(text) });
}
</script>

<template>
    <v-text-field
        v-if="close"
        :model-value="reach"
        class="mt-2"
        label="Reach"
        suffix="mm"
        inputmode="decimal"
        :error-messages="wrong(reach)"
        hint="The largest distance over which edges are joined"
        persistent-hint
        data-testid="reach"
        @update:model-value="typedReach"
    />
    <GapWidths
        v-if="close"
        :reach="close.reach"
        :leave="close.leave ?? []"
        @reach="soon({ ...close, reach: $event })"
        @leave="soon({ ...close, leave: $event })"
    />
    <v-radio-group
        v-if="cover"
        inline
        hide-details
        density="compact"
        :model-value="cover.style"
        aria-label="Shape of the cover"
        @update:model-value="soon({ ...cover, style: $event as Cover['style'], height: null })"
    >
        <v-radio label="Flat" value="flat" data-testid="style-flat" />
        <v-radio label="Taut" value="taut" data-testid="style-taut" />
        <v-radio label="Domed" value="domed" data-testid="style-domed" />
    </v-radio-group>
    <v-text-field
        v-if="cover?.style === 'domed'"
        :model-value="height"
        label="Height (empty: as it comes)"
        suffix="mm"
        inputmode="decimal"
        data-testid="height"
        @update:model-value="typedHeight"
    />
    <div v-if="bridge" class="d-flex ga-2 mt-2">
        <v-select
            v-for="end in ['from', 'to'] as const"
            :key="end"
            :label="end === 'from' ? 'From' : 'To'"
            :items="rims.map((r) => r.name)"
            :model-value="rimAt(bridge[end].near)"
            :data-testid="`bridge-${end}`"
            @update:model-value="chooseRim(end, $event)"
        />
    </div>
    <v-select
        v-if="lift"
        class="mt-2"
        label="Rings of neighbours taken out as well"
        :items="[0, 1, 2, 3, 4, 6, 8]"
        :model-value="lift.rings"
        data-testid="rings"
        @update:model-value="soon({ ...lift, rings: $event })"
    />
    <template v-if="drop">
        <v-checkbox
            :model-value="drop.duplicates"
            label="Duplicates"
            density="compact"
            hide-details
            @update:model-value="soon({ ...drop, duplicates: !!$event })"
        />
        <v-checkbox
            :model-value="drop.degenerate"
            label="Triangles without area"
            density="compact"
            hide-details
            @update:model-value="soon({ ...drop, degenerate: !!$event })"
        />
        <v-text-field
            :model-value="speck"
            label="Specks below (empty: keep)"
            suffix="mm"
            inputmode="decimal"
            @update:model-value="typedSpeck"
        />
    </template>
</template>
