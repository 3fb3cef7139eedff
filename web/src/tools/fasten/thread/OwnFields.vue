<script setup lang="ts">
// A thread on walls of bores and on pins.
import { computed, ref, watch } from 'vue';
import { answer, api, type Action, type Schemas } from '../../../api/client';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';
import ThreadFields from '../ThreadFields.vue';

const { action: a } = defineProps<{ action: Extract<Action, { kind: 'fasten.thread' }> }>();
const picks = usePicks();

/** The sizes that fit the picked wall, none of which is taken by itself. */
const suggested = ref<readonly Schemas['Size'][] | undefined>();
const measured = ref<number | null>(null);
const picked = computed(() => a.faces[0] ?? null);
watch(
    picked,
    async (pick) => {
        suggested.value = undefined;
        const surface = pick && 'surface' in pick ? pick.surface : null;
        if (surface?.kind !== 'cylinder') return;
        measured.value = surface.radius * 2;
        const query = { diameter: measured.value, pin: !surface.hollow };
        const got = await answer(api.GET('/api/v1/threads/sizes', { params: { query } })).catch(() => null);
        if (picked.value === pick) suggested.value = got?.sizes;
    },
    { immediate: true },
);
</script>

<template>
    <ThreadFields
        :thread="a.thread"
        :suggested="suggested"
        :measured="measured"
        @change="picks.change({ ...a, thread: $event })"
    />
    <StepFields :but="['thread']" />
</template>
