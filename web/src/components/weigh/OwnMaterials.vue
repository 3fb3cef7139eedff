<script setup lang="ts">
// Materials of the house's own, kept with the job.
import { computed, ref } from 'vue';
import { useJob } from '../../stores/job';
import LengthField from '../../tools/fields/LengthField.vue';

const jobs = useJob();
const own = computed(() => jobs.job?.setup.materials ?? []);
const open = ref(false);
const name = ref('');
const density = ref<number | null>(null);
const shrinkage = ref<number | null>(null);
const price = ref<number | null>(null);
const ready = computed(() => name.value.trim() && density.value);
async function add() {
    if (!ready.value) return;
    const made = {
        name: name.value.trim(),
        density: density.value!,
        shrinkage: shrinkage.value ?? 0,
        price: price.value,
    };
    await jobs.setUp({ materials: [...own.value.filter((m) => m.name !== made.name), made] });
    if (own.value.some((m) => m.name === made.name)) {
        name.value = '';
        open.value = false;
    }
}
</script>

<template>
    <button
        type="button"
        class="soft more"
        :aria-expanded="open"
        data-testid="own-materials"
        @click="open = !open"
    >
        {{ open ? '▾' : '▸' }} A material of our own
    </button>
    <div v-if="open">
        <v-text-field v-model="name" label="Name" maxlength="80" data-testid="own-name" />
        <div>
            <LengthField
                label="Density"
                suffix="g/cm³"
                empty="needed"
                :value="density"
                testid="own-density"
                @change="density = $event"
            />
            <LengthField
                label="Shrinkage"
                suffix="%"
                empty="0"
                :value="shrinkage"
                testid="own-shrinkage"
                @change="shrinkage = $event"
            />
            <LengthField
                label="Price of a gram"
                suffix="per g"
                empty="unknown"
                :value="price"
                testid="own-price"
                @change="price = $event"
            />
        </div>
        <v-btn
            class="mt-2"
            size="small"
            variant="outlined"
            :disabled="!ready"
            data-testid="own-add"
            @click="add"
            >Add it to the job</v-btn
        >
        <ul class="own">
            <li v-for="m in own" :key="m.name">
                {{ m.name }}, <span class="figure">{{ m.density }} g/cm³</span>
                <button
                    type="button"
                    class="soft"
                    :aria-label="`Forget ${m.name}`"
                    @click="jobs.setUp({ materials: own.filter((x) => x !== m) })"
                >
                    ✕
                </button>
            </li>
        </ul>
    </div>
</template>

<style scoped>
.more {
    padding: 2px 0 8px;
    cursor: pointer;
}
.own {
    list-style: none;
    margin: 8px 0;
}
.own button {
    cursor: pointer;
}
</style>
