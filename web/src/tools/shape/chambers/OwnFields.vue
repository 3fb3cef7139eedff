<script setup lang="ts">
// What bounds chambers, and which of them become parts.
import { mdiClose } from '@mdi/js';
import type { Action } from '../../../api/client';
import { chamberName, chamberTint } from '../../../chambers';
import { volume } from '../../../format';
import { middlePlane } from '../../../planes';
import { useBench } from '../../../stores/bench';
import { useForecast } from '../../../stores/forecast';
import { usePicks } from '../../picking/picks';
import CheckRow from '../../fields/CheckRow.vue';
import PartsField from '../../fields/PartsField.vue';
import PlaneFields from '../../fields/PlaneFields.vue';

type Chambers = Extract<Action, { kind: 'shape.chambers' }>;
const { action: a } = defineProps<{ action: Chambers }>();
const bench = useBench();
const forecast = useForecast();
const picks = usePicks();
const change = (action: Chambers) => picks.change(action);
</script>

<template>
    <PartsField
        label="Other parts that bound chambers"
        :value="a.with"
        @change="change({ ...a, with: $event })"
    />
    <div v-for="(plane, i) in a.planes" :key="i" class="plane">
        <div class="away">
            <v-btn
                size="x-small"
                variant="text"
                :icon="mdiClose"
                :aria-label="`Take plane ${i + 1} away`"
                @click="change({ ...a, planes: a.planes.filter((_, k) => k !== i) })"
            />
        </div>
        <PlaneFields
            :plane="plane"
            :testid="`plane-${i}`"
            @change="change({ ...a, planes: a.planes.map((old, k) => (k === i ? $event : old)) })"
        />
    </div>
    <div class="d-flex mt-2">
        <v-btn
            size="small"
            variant="outlined"
            data-testid="add-plane"
            @click="change({ ...a, planes: [...a.planes, middlePlane(bench.part?.figures ?? null)] })"
            >Add a plane</v-btn
        >
    </div>
    <template v-if="forecast.ready?.report.made?.length">
        <p class="mt-3">Click the chambers that become parts, here or in the viewport.</p>
        <ul class="chambers" data-testid="chambers">
            <li v-for="(c, i) in forecast.ready.report.made" :key="i">
                <button
                    type="button"
                    role="checkbox"
                    :aria-checked="picks.chambers.includes(i)"
                    :class="{ picked: picks.chambers.includes(i), aimed: picks.aimedChamber === i }"
                    :data-testid="`chamber-${i}`"
                    @click="picks.toggleChamber(i)"
                    @pointerenter="picks.aimedChamber = i"
                    @pointerleave="picks.aimedChamber = null"
                >
                    <span class="tint" :style="{ background: chamberTint(i) }" />
                    <b>{{ chamberName(i) }}</b>
                    <span class="figure">{{ volume(c.figures.volume ?? 0) }}</span>
                    <span class="state">{{ picks.chambers.includes(i) ? 'becomes a part' : '' }}</span>
                </button>
            </li>
        </ul>
        <CheckRow
            v-if="picks.chambers.length > 1"
            label="As one part together"
            :value="a.together"
            testid="together"
            @change="picks.alter({ ...a, together: $event })"
        />
    </template>
</template>

<style scoped>
.plane {
    position: relative;
    margin-top: 8px;
    padding: 4px 8px 8px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
}
.away {
    position: absolute;
    top: 4px;
    right: 4px;
    z-index: 1;
}
.chambers {
    margin: 6px 0;
    list-style: none;
}
.chambers button {
    display: grid;
    grid-template-columns: 16px 20px auto 1fr;
    align-items: center;
    gap: 8px;
    width: 100%;
    padding: 4px 8px;
    border-radius: 4px;
    text-align: left;
    border: 2px solid transparent;
}
.chambers .aimed {
    background: rgb(var(--v-theme-rule) / 60%);
}
.chambers .picked {
    border-color: rgb(var(--v-theme-primary));
}
.tint {
    width: 16px;
    height: 16px;
    border-radius: 3px;
}
.state {
    text-align: right;
    font-size: 12px;
}
</style>
