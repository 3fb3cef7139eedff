<script setup lang="ts">
// A vessel filled to a level or with a volume.
import { computed } from 'vue';
import * as f from '../../format';
import { useBench } from '../../stores/bench';
import { useCapacity } from '../../stores/capacity';
import { usePicks } from '../../tools/picking/picks';
import DirectionField from '../../tools/fields/DirectionField.vue';
import LengthField from '../../tools/fields/LengthField.vue';

const bench = useBench();
const capacity = useCapacity();
const picks = usePicks();
const got = computed(() => (capacity.here ? capacity.got : null));
const tidy = (x: number) => Number(x.toPrecision(5));
</script>

<template>
    <div class="d-flex ga-2 align-center">
        <v-btn size="small" variant="outlined" data-testid="pick-vessel" @click="capacity.pick()">{{
            capacity.here ? 'Pick another place' : 'Pick the inside of a vessel'
        }}</v-btn>
        <v-btn v-if="capacity.here" size="x-small" variant="text" @click="capacity.clear()">Empty it</v-btn>
    </div>
    <p v-if="picks.picking" class="soft" data-testid="picks">{{ picks.picking.hint }}</p>
    <template v-if="capacity.here">
        <DirectionField
            label="It stands with this way up"
            :value="capacity.up"
            testid="up"
            @change="$event && (capacity.up = $event)"
        />
        <p v-if="capacity.trouble" class="trouble" role="alert" data-testid="capacity-trouble">
            {{ capacity.trouble }}
        </p>
        <template v-if="got">
            <p class="big figure" data-testid="capacity">
                {{ f.liquid(got.volume) }} <span class="soft">{{ f.millimetres(got.depth) }} deep</span>
            </p>
            <div class="two">
                <LengthField
                    label="Volume"
                    suffix="ml"
                    :value="tidy(got.volume / 1000)"
                    testid="liquid-volume"
                    @change="capacity.to = $event ? { volume: $event * 1000 } : { depth: 0 }"
                />
                <LengthField
                    label="Depth"
                    :value="tidy(got.depth)"
                    testid="liquid-depth"
                    @change="capacity.to = { depth: $event ?? 0 }"
                />
            </div>
            <p v-if="got.over" class="trouble" data-testid="over">
                It holds no more than {{ f.liquid(got.spill.volume) }}.
            </p>
            <dl>
                <dt>{{ f.told(got.spill.text) }}</dt>
                <dd class="figure" data-testid="brim">{{ f.liquid(got.spill.volume) }}</dd>
                <dt>Surface</dt>
                <dd class="figure">{{ f.area(got.area) }}</dd>
                <dt>Mass of the liquid</dt>
                <dd class="figure" data-testid="liquid-mass">
                    {{ f.mass((got.volume / 1000) * capacity.density) }}
                </dd>
            </dl>
            <LengthField
                label="Density of the liquid"
                suffix="g/ml"
                :value="capacity.density"
                testid="liquid-density"
                @change="capacity.density = $event ?? 1"
            />
            <div class="d-flex ga-2 mt-2">
                <v-btn size="small" variant="outlined" data-testid="to-brim" @click="capacity.to = null"
                    >To the brim</v-btn
                >
                <v-btn
                    size="small"
                    variant="outlined"
                    data-testid="keep-liquid"
                    @click="capacity.step && picks.start('Fill', capacity.step)"
                    >Keep the liquid as a part</v-btn
                >
            </div>
        </template>
        <p v-else-if="!capacity.trouble" class="soft" role="status">Filling {{ bench.part?.name }} …</p>
    </template>
</template>

<style scoped>
.big {
    margin-top: 6px;
    font-size: 22px;
    font-weight: 500;
}
.two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 8px;
}
dl {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 4px 12px;
    margin: 8px 0;
}
.trouble {
    margin: 6px 0;
    padding: 6px 10px;
    border-left: 3px solid rgb(var(--v-theme-warning));
    background: rgb(var(--v-theme-background));
}
</style>
