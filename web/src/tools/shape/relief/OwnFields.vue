<script setup lang="ts">
// A relief: each region with its height, and what a well takes.
import { computed } from 'vue';
import BodyFields from '../../../board/BodyFields.vue';
import { useProfiles } from '../../../stores/profiles';
import LengthField from '../../fields/LengthField.vue';
import StepFields from '../../fields/StepFields.vue';

const profiles = useProfiles();
/** More regions than this nobody reads one by one: then only the chosen one is shown. */
const MOST = 40;
const figure = (x: number) => Number(x.toPrecision(4)).toLocaleString('en').replaceAll(',', '\u2009');
const rows = computed(() =>
    profiles.facts
        .map((f, n) => ({ n, area: f.area, height: profiles.heights[n] ?? 0, shade: profiles.shade(n) }))
        .filter((r) => profiles.facts.length <= MOST || r.n === profiles.chosen),
);
</script>

<template>
    <BodyFields>
        <p v-if="profiles.facts.length" class="soft mt-1">
            Click a region, or its row, and write how high it stands above the paper.
        </p>
        <table v-if="rows.length" class="rows" data-testid="relief-rows">
            <thead>
                <tr>
                    <th>Region</th>
                    <th class="figure">Area</th>
                    <th class="figure">Volume</th>
                    <th>Height</th>
                </tr>
            </thead>
            <tbody>
                <tr
                    v-for="r in rows"
                    :key="r.n"
                    :class="{ chosen: profiles.chosen === r.n }"
                    :data-testid="`relief-${r.n}`"
                    @click="profiles.chosen = r.n"
                >
                    <td>
                        <span
                            class="swatch"
                            :style="{ opacity: r.shade === null ? 0 : 0.1 + 0.9 * r.shade }"
                        />
                        {{ r.n + 1 }}
                    </td>
                    <td class="figure">{{ figure(r.area) }} mm²</td>
                    <td class="figure">
                        {{ r.shade === null ? 'left out' : `${figure(r.area * r.height)} mm³` }}
                    </td>
                    <td class="height">
                        <LengthField
                            label=""
                            signed
                            :value="r.height"
                            :testid="`relief-height-${r.n}`"
                            @change="profiles.raise(r.n, $event)"
                        />
                    </td>
                </tr>
            </tbody>
        </table>
    </BodyFields>
    <StepFields :but="['profile', 'heights', 'becomes']" />
</template>

<style scoped>
.rows {
    width: 100%;
    border-collapse: collapse;
    font-size: 13px;
}
th {
    font-weight: 500;
    text-align: left;
}
td,
th {
    padding: 2px 4px;
}
.figure {
    text-align: right;
    white-space: nowrap;
}
.chosen {
    background: rgb(var(--v-theme-background));
}
.swatch {
    display: inline-block;
    width: 12px;
    height: 12px;
    vertical-align: -1px;
    background: rgb(var(--v-theme-primary));
}
.height {
    width: 116px;
}
</style>
