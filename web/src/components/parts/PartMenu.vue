<script setup lang="ts">
// What can be done to one part as a thing of the job, from the tray and from the view.
import { computed, nextTick, ref, watch } from 'vue';
import { useBench } from '../../stores/bench';
import { useJob } from '../../stores/job';
import { useParts } from '../../stores/parts';
import ColourRow from './ColourRow.vue';

const jobs = useJob();
const bench = useBench();
const parts = useParts();
const part = computed(() => jobs.parts.find((p) => p.id === parts.menu?.part) ?? null);
const open = computed({
    get: () => part.value !== null,
    set: (on) => {
        if (!on) parts.menu = null;
    },
});
const name = ref('');
const group = ref('');
const field = ref<{ focus: () => void }>();
watch(
    () => part.value,
    (now) => {
        name.value = now?.name ?? '';
        group.value = now?.group ?? '';
        if (now) void nextTick(() => field.value?.focus());
    },
);

function done(act: (id: number) => unknown) {
    const id = part.value?.id;
    parts.menu = null;
    if (id !== undefined) void act(id);
}
</script>

<template>
    <v-menu
        v-model="open"
        :target="parts.menu ? [parts.menu.x, parts.menu.y] : undefined"
        :close-on-content-click="false"
    >
        <v-card
            v-if="part"
            width="330"
            class="pa-3"
            data-testid="part-menu"
            :aria-label="`Part ${part.name}`"
        >
            <form @submit.prevent="done((id) => parts.rename(id, name))">
                <v-text-field
                    ref="field"
                    v-model="name"
                    label="Name"
                    maxlength="80"
                    data-testid="part-name"
                    @focus="($event.target as HTMLInputElement).select()"
                />
            </form>
            <form class="mt-3" @submit.prevent="done((id) => parts.group([id], group))">
                <v-text-field
                    v-model="group"
                    label="Group"
                    list="groups-of-parts"
                    maxlength="80"
                    data-testid="part-group"
                />
                <datalist id="groups-of-parts">
                    <option v-for="g in parts.groups" :key="g" :value="g" />
                </datalist>
            </form>
            <ColourRow
                class="mt-3"
                :value="part.colour ?? null"
                @change="(to) => done((id) => parts.colour([id], to))"
            />
            <div class="acts mt-3">
                <v-btn
                    size="small"
                    variant="outlined"
                    data-testid="part-save"
                    :disabled="!name.trim() || (name.trim() === part.name && group === (part.group ?? ''))"
                    @click="
                        done(async (id) => {
                            await parts.rename(id, name);
                            await parts.group([id], group);
                        })
                    "
                    >Save</v-btn
                >
                <v-btn
                    size="small"
                    variant="text"
                    data-testid="part-duplicate"
                    @click="done((id) => parts.duplicate([id]))"
                    >Duplicate</v-btn
                >
                <v-btn
                    size="small"
                    variant="text"
                    data-testid="part-hide"
                    @click="done((id) => bench.hide([id]))"
                    >Hide</v-btn
                >
                <v-btn
                    size="small"
                    variant="text"
                    data-testid="part-delete"
                    @click="done((id) => parts.remove([id]))"
                    >Delete</v-btn
                >
            </div>
        </v-card>
    </v-menu>
</template>

<style scoped>
.acts {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
}
</style>
