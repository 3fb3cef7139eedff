<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Action } from '../api/client';
import { useForecast } from '../stores/forecast';
import { tools } from '../tools';

const forecast = useForecast();
type Close = Extract<Action, { kind: 'seal.close_gaps' }>;
type Cover = Extract<Action, { kind: 'seal.cover_rim' }>;
type Drop = Extract<Action, { kind: 'seal.drop' }>;
const is = <T extends Action>(kind: T['kind']) =>
    computed(() => (forecast.draft?.kind === kind ? (forecast.draft as T) : null));
const close = is<Close>('seal.close_gaps');
const cover = is<Cover>('seal.cover_rim');
const drop = is<Drop>('seal.drop');

const reach = ref('');
const speck = ref('');
watch(close, (now) => now && (reach.value = String(now.reach)), { immediate: true });
watch(drop, (now) => now && (speck.value = now.specks_below == null ? '' : String(now.specks_below)), {
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
    <v-radio-group
        v-if="cover"
        inline
        hide-details
        density="compact"
        :model-value="cover.style"
        aria-label="Shape of the cover"
        @update:model-value="soon({ ...cover, style: $event as Cover['style'] })"
    >
        <v-radio label="Flat" value="flat" data-testid="style-flat" />
        <v-radio label="Taut" value="taut" data-testid="style-taut" />
    </v-radio-group>
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
