<script setup lang="ts">
// Radii along one run, each at a share of its length: between two it changes evenly.
import { computed } from 'vue';
import type { Schemas } from '../../../api/client';
import LengthField from '../../fields/LengthField.vue';
import type { Xyz } from '../../../rimRuns';
import { inOrder, placeAt, withAnother, type RadiusAt } from './own';

const props = defineProps<{
    run: Schemas['EdgeRun'];
    n: number;
    along: RadiusAt[];
    /** What it has where none is given. */
    radius: number;
}>();
const emit = defineEmits<{ change: [along: RadiusAt[]] }>();
/** More of them nobody tells apart. */
const MOST = 12;
const SHARES = { minimum: 0, maximum: 100 };
const line = computed(() => props.run.line as Xyz[]);
const closed = computed(() => JSON.stringify(line.value[0]) === JSON.stringify(line.value.at(-1)));
const rows = computed(() => inOrder(line.value, props.along));
const percent = (share: number) => Number((share * 100).toFixed(1));
const tell = (changed: { share: number; radius: number }[]) =>
    emit(
        'change',
        changed.map(({ share, radius }) => ({ at: placeAt(line.value, share), radius })),
    );
const begin = () => tell([0, closed.value ? 0.5 : 1].map((share) => ({ share, radius: props.radius })));
const change = (k: number, to: { share?: number; radius?: number }) =>
    tell(rows.value.map((row, n) => (n === k ? { ...row, ...to } : row)));
const without = (k: number) =>
    rows.value.length > 2 ? tell(rows.value.filter((_, n) => n !== k)) : emit('change', []);
</script>

<template>
    <button
        v-if="!along.length"
        type="button"
        class="link"
        :data-testid="`run-along-${n}`"
        :aria-label="`Radii along edge ${n + 1}`"
        @click="begin"
    >
        Radii along it
    </button>
    <div v-else :data-testid="`along-${n}`">
        <div v-for="(row, k) in rows" :key="k" class="row">
            <LengthField
                label="At"
                suffix="%"
                :value="percent(row.share)"
                :limits="SHARES"
                :testid="`along-at-${n}-${k}`"
                @change="$event === null || change(k, { share: $event / 100 })"
            />
            <LengthField
                label="Radius"
                :value="row.radius"
                :testid="`along-radius-${n}-${k}`"
                @change="$event && change(k, { radius: $event })"
            />
            <button
                type="button"
                class="link cross"
                :aria-label="`Without the radius at ${percent(row.share)} %`"
                @click="without(k)"
            >
                ✕
            </button>
        </div>
        <button
            v-if="rows.length < MOST"
            type="button"
            class="link"
            :data-testid="`along-more-${n}`"
            @click="emit('change', withAnother(line, along, closed))"
        >
            Another place
        </button>
        <button type="button" class="link" :data-testid="`along-none-${n}`" @click="emit('change', [])">
            The same all along
        </button>
    </div>
</template>

<style scoped>
.row {
    display: grid;
    grid-template-columns: 1fr 1fr auto;
    gap: 8px;
    align-items: center;
    margin-bottom: 6px;
}
.link {
    margin-right: 12px;
    font-size: 12px;
    text-decoration: underline;
    cursor: pointer;
}
.link.cross {
    margin-right: 0;
    text-decoration: none;
}
</style>
