<script setup lang="ts">
// What a step lost, swallowed and invented: shares with areas, and what is lost may be kept as a part.
import { computed } from 'vue';
import { mayKeepLost } from '../api/action';
import type { Action, Report } from '../api/client';
import { area, millimetres, percent } from '../format';
import CheckRow from '../tools/fields/CheckRow.vue';

const props = defineProps<{ harm: NonNullable<Report['harm']>; action: Action | null }>();
const emit = defineEmits<{ keep: [on: boolean] }>();
const rows = computed(() =>
    [
        {
            key: 'lost',
            name: 'Lost',
            far: props.harm.lost,
            title: `Came in and lies outside now, farther than ${millimetres(props.harm.distance)} from the result`,
        },
        {
            key: 'swallowed',
            name: 'Swallowed',
            far: props.harm.swallowed,
            title: `Came in and lies inside now, farther than ${millimetres(props.harm.distance)} from the surface`,
        },
        {
            key: 'invented',
            name: 'Invented',
            far: props.harm.invented,
            title: `Was not there before, to ${millimetres(props.harm.distance)}`,
        },
    ].map((r) => ({ ...r, some: r.far.area > 0 })),
);
const keeps = computed(() => {
    const can = mayKeepLost(props.action) ? props.action : null;
    return can && (can.keep_lost || props.harm.lost.area > 0) ? { on: can.keep_lost ?? false } : null;
});
</script>

<template>
    <table class="harm" data-testid="harm">
        <thead>
            <tr class="small-caps">
                <th scope="col">Surface</th>
                <th scope="col">Share</th>
                <th scope="col">Area</th>
            </tr>
        </thead>
        <tbody>
            <tr
                v-for="r in rows"
                :key="r.key"
                :class="{ bad: r.key === 'lost' && r.some }"
                :title="r.title"
                :data-testid="`harm-${r.key}`"
            >
                <th scope="row">
                    <span v-if="r.key === 'lost' && r.some" class="glyph" aria-hidden="true">✗</span>
                    {{ r.name }}
                </th>
                <td class="figure">{{ r.some ? percent(r.far.share) : 'none' }}</td>
                <td class="figure">{{ r.some ? area(r.far.area) : '' }}</td>
            </tr>
        </tbody>
    </table>
    <p v-if="harm.lost.area > 0" class="soft">
        What is lost is drawn over the result in crimson: it lies farther than
        {{ millimetres(harm.distance) }} from it, in {{ harm.lost.places.length }}
        {{ harm.lost.places.length === 1 ? 'place' : 'places' }}.
    </p>
    <CheckRow
        v-if="keeps"
        label="Keep what is lost as a part"
        :value="keeps.on"
        testid="keep-lost"
        @change="emit('keep', $event)"
    />
</template>

<style scoped>
.harm {
    width: 100%;
    margin-top: 8px;
    border-collapse: collapse;
}
th[scope='row'] {
    font-weight: 400;
    text-align: left;
}
th[scope='col'] {
    text-align: right;
}
th[scope='col']:first-child {
    text-align: left;
}
td {
    text-align: right;
    padding: 2px 0 2px 10px;
    white-space: nowrap;
}
tbody tr {
    border-top: 1px solid rgb(var(--v-theme-rule));
}
.bad {
    color: rgb(var(--v-theme-error));
    font-weight: 500;
}
.glyph {
    font-size: 9px;
}
</style>
