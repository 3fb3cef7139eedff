<script setup lang="ts">
// A thread: its size from the tables or of one's own, hand, starts and fit.
import { computed, ref } from 'vue';
import type { Schemas } from '../../api/client';
import { millimetres } from '../../format';
import { useFasten } from '../../stores/fasten';
import CheckRow from '../fields/CheckRow.vue';
import ChoiceRow from '../fields/ChoiceRow.vue';
import LengthField from '../fields/LengthField.vue';

type Thread = Schemas['Thread'];
const props = defineProps<{
    thread: Thread;
    suggested?: readonly Schemas['Size'][];
    measured?: number | null;
}>();
const emit = defineEmits<{ change: [thread: Thread] }>();
const fasten = useFasten();
const change = (part: Partial<Thread>) => emit('change', { ...props.thread, ...part });

const families = [
    { value: 'metric', title: 'Metric' },
    { value: 'unified', title: 'Unified, inch' },
    { value: 'pipe', title: 'Parallel pipe' },
    { value: 'trapezoidal', title: 'Trapezoidal' },
    { value: 'free', title: 'Of one’s own' },
] as const;
const classes = { coarse: 'coarse', fine: 'fine', 'extra-fine': 'extra fine', only: '' };
const size = computed(() => fasten.sizeOf(props.thread.size));
const free = computed(() => (typeof props.thread.size === 'object' ? props.thread.size : null));
const chosenFamily = ref<string | null>(null);
const family = computed(() => (free.value ? 'free' : (size.value?.family ?? chosenFamily.value ?? 'metric')));
function setFamily(to: string) {
    chosenFamily.value = to;
    change({ size: to === 'free' ? { diameter: 20, pitch: 2, angle: 60 } : '' });
}
const told = (s: Schemas['Size']) =>
    [s.name, classes[s.class], `bore ${millimetres(s.minor)}`].filter(Boolean).join(', ');
const items = computed(() =>
    fasten.sizes.filter((s) => s.family === family.value).map((s) => ({ value: s.name, title: told(s) })),
);
const figures = computed(() => {
    const s = size.value;
    return (
        s &&
        `outside ${millimetres(s.major)}, pitch ${millimetres(s.pitch)}, pitch diameter ${millimetres(s.pitch_diameter)}, ` +
            `bore ${millimetres(s.minor)}, tap drill ${millimetres(s.tap_drill)}`
    );
});
const fits = ['snug', 'running', 'loose'] as const;
const own = ref(false);
const fit = computed(() => {
    const { radial, axial } = props.thread.allowance ?? {};
    const a = fasten.allowances;
    if (own.value || !a) return 'own';
    if (!radial && !axial) return 'none';
    return fits.find((_, i) => a.radial[i] === radial && a.axial[i] === axial) ?? 'own';
});
const fitItems = [
    ...fits.map((f) => ({ value: f, title: f[0]!.toUpperCase() + f.slice(1) })),
    { value: 'none', title: 'None' },
    { value: 'own', title: 'Own figures' },
];
function setFit(to: string) {
    own.value = to === 'own';
    const i = fits.indexOf(to as (typeof fits)[number]);
    const a = fasten.allowances;
    if (i >= 0 && a) change({ allowance: { radial: a.radial[i]!, axial: a.axial[i]! } });
    else if (to === 'none') change({ allowance: { radial: 0, axial: 0 } });
}
const allowance = computed(() => ({
    radial: props.thread.allowance?.radial ?? 0,
    axial: props.thread.allowance?.axial ?? 0,
}));
</script>

<template>
    <div v-if="suggested" class="suggested" data-testid="suggested">
        <p v-if="measured" class="soft">
            It measures {{ millimetres(measured) }}.
            {{ suggested.length ? 'That may be meant for:' : 'No size of the tables is near.' }}
        </p>
        <v-chip
            v-for="s in suggested.slice(0, 6)"
            :key="s.name"
            size="small"
            :variant="s.name === thread.size ? 'flat' : 'outlined'"
            :data-testid="`size-${s.name}`"
            @click="change({ size: s.name })"
            >{{ s.name }}{{ classes[s.class] ? `, ${classes[s.class]}` : '' }}</v-chip
        >
    </div>
    <v-select
        class="mt-2"
        label="Family"
        :items="families"
        :model-value="family"
        data-testid="family"
        @update:model-value="setFamily"
    />
    <template v-if="free">
        <LengthField
            label="Outer diameter"
            :value="free.diameter"
            testid="thread-diameter"
            @change="change({ size: { ...free, diameter: $event! } })"
        />
        <LengthField
            label="Pitch"
            :value="free.pitch"
            testid="thread-pitch"
            @change="change({ size: { ...free, pitch: $event! } })"
        />
        <LengthField
            label="Between the flanks"
            suffix="°"
            :value="free.angle"
            testid="thread-angle"
            @change="change({ size: { ...free, angle: $event! } })"
        />
    </template>
    <v-autocomplete
        v-else
        class="mt-2"
        label="Size and pitch"
        placeholder="M4, 1/4-20, G 1/2, Tr 20 …"
        auto-select-first
        :items="items"
        :model-value="size?.name ?? null"
        :hint="figures ?? 'Choose a size'"
        persistent-hint
        data-testid="size"
        @update:model-value="$event && change({ size: $event })"
    />
    <CheckRow
        :value="thread.left"
        label="Left-handed"
        testid="left-handed"
        @change="change({ left: $event })"
    />
    <LengthField
        v-if="(thread.starts ?? 1) > 1 || free || family === 'trapezoidal'"
        label="Starts"
        suffix=""
        :value="thread.starts ?? 1"
        testid="starts"
        @change="change({ starts: Math.round($event!) })"
    />
    <ChoiceRow label="Fit" :items="fitItems" :value="fit" name="fit" @change="setFit" />
    <p class="soft numbers" data-testid="fit-numbers">
        {{ millimetres(allowance.radial) }} off on each side, {{ millimetres(allowance.axial) }} along, taken
        from this thread alone. Give its counterpart none.
    </p>
    <div v-if="fit === 'own'" class="d-flex ga-2">
        <LengthField
            label="Across, on each side"
            signed
            :value="allowance.radial"
            testid="radial"
            @change="change({ allowance: { ...allowance, radial: $event! } })"
        />
        <LengthField
            label="Along the axis"
            signed
            :value="allowance.axial"
            testid="axial"
            @change="change({ allowance: { ...allowance, axial: $event! } })"
        />
    </div>
</template>

<style scoped>
.numbers {
    font-size: 12px;
}
.suggested {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    margin-top: 8px;
}
.suggested p {
    width: 100%;
}
</style>
