<script setup lang="ts">
// Three lengths side by side.
import LengthField from './LengthField.vue';

type Xyz = [number, number, number];
const props = withDefaults(
    defineProps<{
        label: string;
        value: readonly number[];
        above?: boolean;
        suffix?: string;
        testid?: string;
    }>(),
    { suffix: 'mm', testid: undefined },
);
const emit = defineEmits<{ change: [value: Xyz] }>();
const put = (at: number, x: number) =>
    emit('change', props.value.map((old, i) => (i === at ? x : old)) as Xyz);
</script>

<template>
    <div class="three">
        <LengthField
            v-for="(axis, i) in ['x', 'y', 'z']"
            :key="axis"
            :label="`${label} ${axis}`"
            :value="value[i]"
            :signed="!above"
            :suffix="suffix"
            :testid="testid ? `${testid}-${axis}` : undefined"
            @change="put(i, $event!)"
        />
    </div>
</template>

<style scoped>
.three {
    display: grid;
    grid-template-columns: 1fr 1fr 1fr;
    gap: 0 6px;
}
</style>
