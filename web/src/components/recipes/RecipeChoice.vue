<script setup lang="ts">
// Which recipe is done to files as they come in: none, what was done to a part of this job, or a file's.
import { computed, ref } from 'vue';
import { fetched } from '../../api/client';
import { useBringIn, type ChosenRecipe } from '../../stores/bringIn';
import { useJob } from '../../stores/job';

const bringIn = useBringIn();
const jobs = useJob();
const chooser = ref<HTMLInputElement>();
const file = ref<ChosenRecipe | null>(null);
const FROM_FILE = 'file';

/** Parts of this job to which something was done. */
const parts = computed(() =>
    jobs.parts.filter((p) => jobs.job?.steps.some((s) => s.part === p.id && s.number !== p.id)),
);
const items = computed(() => [
    { value: '', title: 'Nothing' },
    ...parts.value.map((p) => ({ value: String(p.id), title: `What was done to ${p.name}` })),
    { value: FROM_FILE, title: file.value ? `Recipe ${file.value.name}` : 'A recipe from a file …' },
]);
const chosen = ref('');

async function recipeOf(part: number): Promise<string> {
    const path = `/api/v1/jobs/${jobs.job!.id}/parts/${part}/recipe`;
    return (await jobs.guarded(async () => (await fetched(path)).text())) ?? '';
}

function choose(value: string) {
    chosen.value = value;
    if (value === FROM_FILE) chooser.value?.click();
    const part = parts.value.find((p) => String(p.id) === value);
    bringIn.recipe = part
        ? { name: `What was done to ${part.name}`, text: () => recipeOf(part.id) }
        : value === FROM_FILE
          ? file.value
          : null;
}

function read(event: Event) {
    const input = event.target as HTMLInputElement;
    const given = input.files?.[0];
    if (given) {
        bringIn.recipe = file.value = { name: given.name, text: () => given.text() };
        chosen.value = FROM_FILE;
    }
    input.value = '';
}
</script>

<template>
    <v-select
        class="mt-3"
        label="Then do to each file"
        :items="items"
        :model-value="chosen"
        data-testid="recipe-choice"
        @update:model-value="choose"
    />
    <input
        ref="chooser"
        type="file"
        accept=".json"
        class="d-sr-only"
        aria-label="Recipe file"
        data-testid="recipe-file"
        @change="read"
    />
</template>
