<script setup lang="ts">
import { mdiClose, mdiFolderOpenOutline, mdiTrayArrowDown } from '@mdi/js';
import { computed, ref } from 'vue';
import { ENDINGS, handedOver } from '../../files';
import { bytes, millimetres, size } from '../../format';
import { useBench } from '../../stores/bench';
import { useBringIn } from '../../stores/bringIn';
import { useJob } from '../../stores/job';
import { isExact, stateOf, states, unitNames } from '../../text';
import BodyChoice from '../bring/BodyChoice.vue';
import RecipeChoice from '../recipes/RecipeChoice.vue';
import RecipeResults from '../recipes/RecipeResults.vue';
import TaskProgress from '../TaskProgress.vue';

const bringIn = useBringIn();
const bench = useBench();
const jobs = useJob();
const chooser = ref<HTMLInputElement>();
const folder = ref<HTMLInputElement>();
const units = Object.entries(unitNames).map(([value, title]) => ({ value, title }));
/** The units that are asked about, each with the millimetres in one of it. */
const asked = (
    [
        ['millimetre', 1],
        ['centimetre', 10],
        ['metre', 1000],
        ['inch', 25.4],
    ] as const
).map(([value, each]) => ({ value, title: unitNames[value], each }));
const part = computed(() => (id: number | null) => jobs.parts.find((p) => p.id === id));

/** What somebody has to look at comes first; what a recipe was done to has a list of its own. */
const listed = computed(() => {
    const shown = bringIn.arrivals.filter((a) => a.problem || a.part == null || !a.recipe);
    return [...shown.filter((a) => a.problem), ...shown.filter((a) => !a.problem)];
});

function chosen(event: Event, fromFolder = false) {
    const input = event.target as HTMLInputElement;
    void bringIn.bring(handedOver([...(input.files ?? [])], fromFolder));
    input.value = '';
}
</script>

<template>
    <button type="button" class="drop" @click="chooser?.click()">
        <v-icon :icon="mdiTrayArrowDown" size="28" />
        <span class="heading">Drop files, or choose them</span>
        <span class="soft">STL, OBJ, PLY, OFF, 3MF, glTF, STEP; outlines as DXF, SVG</span>
    </button>
    <input
        ref="chooser"
        type="file"
        multiple
        :accept="ENDINGS.join(',')"
        class="d-sr-only"
        aria-label="Files to bring in"
        data-testid="file"
        @change="chosen($event)"
    />
    <input
        ref="folder"
        type="file"
        webkitdirectory
        class="d-sr-only"
        aria-label="A folder of files to bring in"
        data-testid="folder"
        @change="chosen($event, true)"
    />
    <v-btn
        class="mt-2"
        size="small"
        variant="text"
        :prepend-icon="mdiFolderOpenOutline"
        data-testid="choose-folder"
        @click="folder?.click()"
        >All files of a folder</v-btn
    >
    <p v-if="bringIn.stayedOut" class="note" role="status" data-testid="stayed-out">
        {{ bringIn.stayedOut }}
    </p>
    <v-select
        v-model="bringIn.unit"
        class="mt-3"
        label="Unit of the numbers in the file"
        :items="units"
        data-testid="unit"
    />

    <RecipeChoice />
    <RecipeResults />

    <div v-for="a in listed" :key="a.id" class="arrival" :data-testid="`arrival-${a.name}`">
        <div class="d-flex align-center ga-2">
            <span class="title">{{ a.name }}</span><span class="figure">{{ bytes(a.bytes) }}</span>
            <v-btn
                v-if="a.problem || a.part"
                :icon="mdiClose"
                size="x-small"
                aria-label="Remove from the list"
                @click="bringIn.dismiss(a)"
            />
        </div>
        <div v-if="a.problem?.type === 'urn:nimbet:unit-in-doubt'" role="alert">
            <b>{{ a.problem.title }}</b> {{ a.problem.detail }}
            <div class="d-flex flex-wrap ga-2 mt-2">
                <v-btn
                    v-for="u in asked"
                    :key="u.value"
                    size="small"
                    variant="outlined"
                    :data-testid="`as-${u.value}`"
                    @click="a.again({ unit: u.value })"
                    >{{ u.title
                    }}<template v-if="a.problem.across"
                        >:&nbsp;<span class="figure">{{ millimetres(a.problem.across * u.each) }}</span
                        >&nbsp;across</template
                    ></v-btn
                >
            </div>
        </div>
        <BodyChoice
            v-else-if="a.problem?.type === 'urn:nimbet:several-bodies'"
            :bodies="a.problem.bodies ?? []"
            :exact="isExact(a.name)"
            @choose="(bodies, chord) => a.again({ bodies, chord: isExact(a.name) ? chord : '' })"
        />
        <div v-else-if="a.problem" class="problem" role="alert">
            <b>{{ a.problem.title }}.</b> {{ a.problem.detail }}
        </div>
        <TaskProgress v-else-if="a.part == null" :task="a.task" what="Bringing in" @cancel="a.cancel()" />
        <template v-else>
            <p v-if="part(a.part)">
                <v-icon
                    :icon="states[part(a.part)!.figures.state].icon"
                    :color="states[part(a.part)!.figures.state].colour"
                    size="17"
                />
                {{ part(a.part)!.figures.reason }} ·
                <span class="figure">{{ size(part(a.part)!.figures.size) }}</span>
            </p>
            <p v-for="n in a.notes" :key="n" class="note">{{ n }}</p>
        </template>
    </div>

    <template v-if="jobs.parts.length">
        <p class="small-caps mt-4 mb-1">On the bench</p>
        <button
            v-for="p in jobs.parts"
            :key="p.id"
            type="button"
            class="part ruled-top"
            @click="bench.selectPart(p.id)"
        >
            <v-icon :icon="stateOf(p).icon" :color="stateOf(p).colour" size="17" />
            <span class="title">{{ p.name }}</span>
            <span class="figure soft">{{ size(p.figures.size) }}</span>
        </button>
    </template>
</template>

<style scoped>
.drop {
    display: flex;
    flex-direction: column;
    align-items: center;
    gap: 2px;
    width: 100%;
    padding: 20px 8px;
    border: 2px dashed rgb(var(--v-theme-rule));
    border-radius: 6px;
    cursor: pointer;
}
.drop:hover {
    border-color: rgb(var(--v-theme-primary));
}
.arrival {
    margin-top: 10px;
    padding: 8px 10px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
}
.title {
    flex: 1;
    font-weight: 500;
    overflow-wrap: anywhere;
    text-align: left;
}
.problem {
    color: rgb(var(--v-theme-error));
}
.note {
    color: rgb(var(--v-theme-warning));
}
.part {
    display: flex;
    align-items: center;
    gap: 8px;
    width: 100%;
    padding: 6px 2px;
    cursor: pointer;
}
</style>
