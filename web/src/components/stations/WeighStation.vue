<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { answer, api, type Schemas } from '../../api/client';
import * as f from '../../format';
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import { useJob } from '../../stores/job';
import { materialGroups } from '../../text';

const bench = useBench();
const jobs = useJob();
const forecast = useForecast();
const weighed = ref<Schemas['WeighingView'] | null>(null);
const material = ref<string | null>(null);
const part = computed(() => bench.part);

watch(
    () => part.value?.mesh,
    async (mesh) => {
        weighed.value = null;
        if (!mesh) return;
        const got = await answer(
            api.GET('/api/v1/meshes/{mesh}/weighing', { params: { path: { mesh } } }),
        ).catch(() => null);
        if (mesh === part.value?.mesh) weighed.value = got;
    },
    { immediate: true },
);
watch(
    () => part.value?.material,
    (now) => (material.value = now ?? null),
    { immediate: true },
);

const materials = computed(() =>
    jobs.materials.map((m) => ({
        value: m.key,
        title: m.name,
        props: { subtitle: `${materialGroups[m.group]} · ${m.density} g/cm³` },
    })),
);
const chosen = computed(() => jobs.materials.find((m) => m.key === material.value));
const mass = computed(() =>
    material.value && weighed.value ? weighed.value.masses[material.value] : undefined,
);
const kept = computed(() => part.value?.material === material.value);

/** Keeps the chosen material as a step of the ledger. */
async function keep() {
    if (!material.value) return;
    await forecast.consider('Material', { kind: 'weigh.set_material', material: material.value });
    await forecast.apply();
}

const axes = ['x', 'y', 'z'];
const inertia = computed(() => {
    const w = weighed.value?.weighing.inertia;
    if (!w || !chosen.value) return [];
    // mm⁵ times g/cm³ is a thousandth of g·mm²; 100 g·mm² are a g·cm².
    return w.slice(0, 3).map((v) => (v * chosen.value!.density) / 1e5);
});
</script>

<template>
    <p v-if="!part" class="soft">Bring a part in first.</p>
    <template v-else>
        <div v-if="part.figures.no_volume" class="reason" data-testid="no-volume">
            <p class="heading">No volume</p>
            <p>
                {{ part.name }} is {{ part.figures.reason }}. Only a closed surface encloses something: there
                is no volume, mass or centre of mass until it is sealed.
            </p>
            <v-btn class="mt-2" size="small" variant="outlined" @click="bench.openStation('seal')"
                >Go to Seal</v-btn
            >
        </div>
        <dl v-if="weighed" data-testid="weighing">
            <template v-if="weighed.weighing.volume != null">
                <dt>Volume</dt>
                <dd class="figure" data-testid="volume">{{ f.volume(weighed.weighing.volume) }}</dd>
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
            class="mt-4"
            label="Material"
            :items="materials"
            data-testid="material"
            :menu-props="{ maxHeight: 380 }"
        />
        <div v-if="chosen" class="mass" data-testid="mass">
            <p v-if="mass != null" class="big figure">{{ f.mass(mass) }}</p>
            <p v-else class="soft">No mass: the part has no volume.</p>
            <p class="soft">
                {{ chosen.name }}, {{ chosen.density }} g/cm³ (a typical value; the supplier's goes before it)
            </p>
            <dl v-if="inertia.length" class="mt-2">
                <dt>Inertia about the centre</dt>
                <dd class="figure">
                    <span v-for="(v, i) in inertia" :key="i" class="axis"
                        >{{ axes[i] }} {{ f.figure(v) }} g·cm²</span
                    >
                </dd>
            </dl>
            <v-btn
                class="mt-2"
                size="small"
                variant="flat"
                color="primary"
                :disabled="kept || forecast.applying"
                data-testid="keep-material"
                @click="keep"
                >{{ kept ? 'Kept for this part' : 'Keep for this part' }}</v-btn
            >
        </div>
    </template>
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
.reason {
    padding: 10px 12px;
    margin-bottom: 12px;
    border-left: 3px solid rgb(var(--v-theme-hazard));
    background: rgb(var(--v-theme-background));
}
.mass {
    padding: 10px 0;
}
.big {
    font-size: 26px;
    font-weight: 500;
}
</style>
