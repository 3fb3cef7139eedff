<script setup lang="ts">
// Parts with what they weigh and cost, and whether they fit the printer or flask.
import { computed } from 'vue';
import type { BillLine } from '../../api/client';
import * as f from '../../format';

type Line = Pick<BillLine, 'id' | 'part' | 'mass' | 'cost' | 'fits' | 'volume'>;
const props = defineProps<{
    lines: readonly Line[];
    /** Of these the mass is told as well. */
    shown?: readonly number[];
    /** The part that all this is about. */
    about?: number | undefined;
}>();
const sum = (of: 'mass' | 'cost', lines = props.lines) => lines.reduce((all, l) => all + (l[of] ?? 0), 0);
const counted = computed(() => props.lines.filter((l) => l.mass != null).length);
const shownLines = computed(() => props.lines.filter((l) => l.mass != null && props.shown?.includes(l.id)));
</script>

<template>
    <table data-testid="bill">
        <thead>
            <tr>
                <th>Part</th>
                <th>Mass</th>
                <th>Cost</th>
                <th>Fits</th>
            </tr>
        </thead>
        <tbody>
            <tr v-for="l in lines" :key="l.id" :class="{ about: l.id === about }">
                <td>{{ l.part }}</td>
                <td class="figure">
                    {{ l.mass != null ? f.mass(l.mass) : l.volume == null ? 'no volume' : 'no material' }}
                </td>
                <td class="figure">{{ l.cost == null ? '–' : f.figure(l.cost) }}</td>
                <td>{{ l.fits == null ? '–' : l.fits ? 'yes' : 'no' }}</td>
            </tr>
        </tbody>
        <tfoot>
            <tr v-if="shownLines.length > 1">
                <td>{{ shownLines.length }} shown</td>
                <td class="figure">{{ f.mass(sum('mass', shownLines)) }}</td>
                <td />
                <td />
            </tr>
            <tr>
                <td>{{ counted }} of {{ lines.length }}</td>
                <td class="figure" data-testid="bill-mass">{{ f.mass(sum('mass')) }}</td>
                <td class="figure">{{ f.figure(sum('cost')) }}</td>
                <td />
            </tr>
        </tfoot>
    </table>
</template>

<style scoped>
table {
    width: 100%;
    margin-top: 10px;
    border-collapse: collapse;
    font-size: 13px;
}
th {
    text-align: left;
    font-weight: 500;
    opacity: 0.8;
}
th,
td {
    padding: 3px 4px;
    border-bottom: 1px solid rgb(var(--v-theme-rule));
}
tfoot td {
    font-weight: 600;
}
.about {
    font-weight: 600;
}
</style>
