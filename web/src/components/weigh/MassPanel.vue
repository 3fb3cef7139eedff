<script setup lang="ts">
// Volume, mass, centre and inertia of the part, and how far they are to be believed.
import { computed, ref, watch } from 'vue';
import * as f from '../../format';
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import { useJob } from '../../stores/job';
import { useWeights } from '../../stores/weights';
import { materialGroups } from '../../text';
import LengthField from '../../tools/fields/LengthField.vue';
import OwnMaterials from './OwnMaterials.vue';

const bench = useBench();
const jobs = useJob();
const forecast = useForecast();
const weights = useWeights();
const part = computed(() => bench.part!);
const weighed = computed(() => weights.seen);
/** The key of a catalogue material, or `own` and its place in the job's list. */
const material = ref<string | null>(null);
watch(
    () => part.value.material,
    (now) => (material.value = now ? (now.own ? `own ${now.own.name}` : now.material) : null),
    { immediate: true },
);

const own = computed(() => jobs.job?.setup.materials ?? []);
const materials = computed(() => [
    ...own.value.map((m) => ({
        value: `own ${m.name}`,
        title: m.name,
        props: { subtitle: `our own · ${m.density} g/cm³` },
    })),
    ...jobs.materials.map((m) => ({
        value: m.key,
        title: m.name,
        props: { subtitle: `${materialGroups[m.group]} · ${m.density} g/cm³` },
    })),
]);
const chosen = computed(() => {
    const mine = own.value.find((m) => `own ${m.name}` === material.value);
    if (mine) return { ...mine, key: mine.name, own: mine };
    const kept = part.value.material?.own;
    if (kept && material.value === `own ${kept.name}`) return { ...kept, key: kept.name, own: kept };
    const m = jobs.materials.find((k) => k.key === material.value);
    return m ? { ...m, own: null, price: jobs.job?.setup.prices?.[m.key] ?? null } : null;
});
const volume = computed(() => weighed.value?.weighing.volume ?? null);
const mass = computed(() =>
    chosen.value && volume.value != null ? (volume.value / 1000) * chosen.value.density : null,
);
const kept = computed(() => {
    const held = part.value.material;
    return held && (held.own ? `own ${held.own.name}` : held.material) === material.value;
});
async function keep() {
    const m = chosen.value;
    if (!m) return;
    const action = { kind: 'weigh.set_material' as const, material: m.key, own: m.own };
    await forecast.consider('Material', action);
    await forecast.apply();
}
function setPrice(price: number | null) {
    const m = chosen.value;
    if (!m || m.own) return;
    const others = Object.entries(jobs.job?.setup.prices ?? {}).filter(([key]) => key !== m.key);
    void jobs.setUp({ prices: Object.fromEntries(price ? [...others, [m.key, price]] : others) });
}

/** As a pattern of wax or resin, what it weighs in a metal. */
const metal = ref<string | null>(null);
const metals = computed(() =>
    jobs.materials.filter((m) => m.group === 'casting_metal').map((m) => ({ value: m.key, title: m.name })),
);
const isPattern = computed(() => {
    const m = jobs.materials.find((k) => k.key === material.value);
    return m?.group === 'pattern' || m?.group === 'resin';
});
const inMetal = computed(() => {
    const m = jobs.materials.find((k) => k.key === metal.value);
    return m && volume.value != null ? (volume.value / 1000) * m.density : null;
});

const share = (x: number) => `${x > 0 ? '+' : '−'}${f.figure(Math.abs(x) * 100)} %`;
const axes = ['x', 'y', 'z'];
/** mm⁵ times g/cm³ is a thousandth of g·mm²; 100 g·mm² are a g·cm². */
const inertia = (x: number) => `${f.figure((x * (chosen.value?.density ?? 0)) / 1e5)} g·cm²`;
</script>

<template>
    <div v-if="part.figures.no_volume" class="reason" data-testid="no-volume">
        <p class="heading">No volume</p>
        <p>
            {{ part.name }} is {{ part.figures.reason }}. Only a closed surface encloses something: there is
            no volume, mass or centre of mass until it is sealed.
        </p>
        <p v-if="weighed?.guess" data-testid="guess">
            A guess, no more: about <b class="figure">{{ f.volume(weighed.guess.volume) }}</b>, between
            {{ f.volume(weighed.guess.least) }} and {{ f.volume(weighed.guess.most) }}, by how much the
            surface winds round places.
        </p>
        <v-btn class="mt-2" size="small" variant="outlined" @click="bench.openStation('seal')"
            >Go to Seal</v-btn
        >
    </div>
    <dl v-if="weighed" data-testid="weighing">
        <template v-if="volume != null">
            <dt>Volume</dt>
            <dd class="figure" data-testid="volume">{{ f.volume(volume) }}</dd>
            <template v-if="weighed.faceting && Math.abs(weighed.faceting.share) > 5e-6">
                <dt class="soft">with true curves for facets</dt>
                <dd class="figure soft" data-testid="faceting">{{ share(weighed.faceting.share) }}</dd>
            </template>
        </template>
        <dt>Area</dt>
        <dd class="figure">{{ f.area(weighed.weighing.area) }}</dd>
        <dt>Size</dt>
        <dd class="figure">{{ f.size(part.figures.size) }}</dd>
        <template v-if="weighed.weighing.centre">
            <dt>Centre of mass</dt>
            <dd class="figure">
                <span v-for="(c, i) in weighed.weighing.centre" :key="i" class="axis"
                    >{{ axes[i] }} {{ f.coordinate(c) }}</span
                >
            </dd>
        </template>
    </dl>
    <p v-else class="soft" role="status">Weighing …</p>
    <v-select
        v-model="material"
        class="mt-3"
        label="Material"
        :items="materials"
        data-testid="material"
        :menu-props="{ maxHeight: 380 }"
    />
    <div v-if="chosen" class="mass" data-testid="mass">
        <p v-if="mass != null" class="big figure">
            {{ f.mass(mass)
            }}<span v-if="chosen.price" class="cost"> · {{ f.figure(mass * chosen.price) }} in money</span>
        </p>
        <p v-else class="soft">No mass: the part has no volume.</p>
        <p class="soft">
            {{ chosen.name }}, {{ chosen.density }} g/cm³
            {{ chosen.own ? '(our own)' : '(a typical value; the supplier’s goes before it)' }}
        </p>
        <dl v-if="weights.principal && mass != null" class="mt-2">
            <dt>Inertia about its axes, drawn</dt>
            <dd class="figure">
                <span v-for="(p, i) in weights.principal" :key="i" class="axis"
                    ><i :class="`axis-${i}`" /> {{ inertia(p.inertia) }}</span
                >
            </dd>
        </dl>
        <template v-if="isPattern">
            <v-select v-model="metal" class="mt-2" label="Cast in" :items="metals" data-testid="cast-in" />
            <p v-if="inMetal != null" data-testid="in-metal">
                The pattern of {{ f.mass(mass ?? 0) }} becomes <b class="figure">{{ f.mass(inMetal) }}</b> of
                metal, without its sprues.
            </p>
        </template>
        <LengthField
            v-if="!chosen.own"
            label="Price of a gram"
            suffix="per g"
            empty="unknown"
            :value="chosen.price"
            testid="price"
            @change="setPrice"
        />
        <v-btn
            class="mt-2"
            size="small"
            variant="flat"
            color="primary"
            :disabled="!!kept || forecast.applying"
            data-testid="keep-material"
            @click="keep"
            >{{ kept ? 'Kept for this part' : 'Keep for this part' }}</v-btn
        >
    </div>
    <OwnMaterials />
</template>

<style scoped>
dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 6px 12px;
}
dd {
    text-align: right;
}
.axis {
    display: block;
}
.axis i {
    display: inline-block;
    width: 14px;
    height: 3px;
    margin-bottom: 3px;
}
.axis-0 {
    background: #b8243c;
}
.axis-1 {
    background: #3f8f82;
}
.axis-2 {
    background: #2f6690;
}
.reason {
    padding: 10px 12px;
    margin-bottom: 12px;
    border-left: 3px solid rgb(var(--v-theme-hazard));
    background: rgb(var(--v-theme-background));
}
.reason p + p {
    margin-top: 6px;
}
.mass {
    padding: 8px 0;
}
.big {
    font-size: 24px;
    font-weight: 500;
}
.cost {
    font-size: 15px;
}
</style>
