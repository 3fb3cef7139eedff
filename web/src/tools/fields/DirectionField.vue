<script setup lang="ts">
// A direction: along an axis, or as a picked face has it: square to a flat one, along the axis of a round one.
import { computed } from 'vue';
import type { Xyz } from '../../rimRuns';
import { useJob } from '../../stores/job';
import { useMeshes } from '../../stores/meshes';
import { usePicks, type Picked } from '../picking/picks';

const props = defineProps<{
    label: string;
    value: Xyz | null;
    /** What no direction means, where it may be left open. */
    open?: string;
    /** Whether a direction and its opposite are one. */
    bothWays?: boolean;
    testid: string;
}>();
const emit = defineEmits<{ change: [way: Xyz | null] }>();
const jobs = useJob();
const meshes = useMeshes();
const picks = usePicks();

const axes: [string, Xyz, string][] = [
    ['2', [0, 0, 1], 'Up'],
    ['-2', [0, 0, -1], 'Down'],
    ['0', [1, 0, 0], '+x'],
    ['-0', [-1, 0, 0], '−x'],
    ['1', [0, 1, 0], '+y'],
    ['-1', [0, -1, 0], '−y'],
];
const chosen = computed(() => {
    const way = props.value;
    if (!way) return 'open';
    return axes.find(([, axis]) => axis.every((x, i) => Math.abs(x - way[i]!) < 1e-9))?.[0] ?? 'picked';
});
const items = computed(() => [
    ...(props.open ? [{ value: 'open', title: props.open }] : []),
    ...axes
        .filter(([key]) => !props.bothWays || !key.startsWith('-') || key === chosen.value)
        .map(([value, , title]) => ({ value, title: props.bothWays ? `Along ${'xyz'[+value]}` : title })),
    ...(chosen.value === 'picked'
        ? [{ value: 'picked', title: `As picked: ${props.value!.map((x) => x.toFixed(3)).join(', ')}` }]
        : []),
    { value: 'pick', title: 'As a face I click …' },
]);

/** The direction of the face under a click: into a flat one, along a round one away from the eye. */
async function ofFace(p: Picked): Promise<Xyz> {
    const into = p.normal!.map((x) => -x) as Xyz;
    const mesh = jobs.parts.find((part) => part.id === p.on?.part)?.mesh;
    const face = mesh && (await meshes.facesOf(mesh)).find((f) => f.id === p.on!.face);
    const surface = face ? face.surface : null;
    if (surface?.kind === 'plane') return surface.normal.map((x) => -x) as Xyz;
    if (!surface || !('axis' in surface)) return into;
    const axis = surface.axis as Xyz;
    const away = p.seen ? p.at.map((x, i) => x - p.seen![i]!) : into;
    const sign = axis.reduce((sum, x, i) => sum + x * away[i]!, 0) < 0 ? -1 : 1;
    return axis.map((x) => x * sign) as Xyz;
}
function choose(to: string) {
    if (to === 'pick') {
        const hint = 'Click a face: square to a flat one, along the axis of a round one.';
        picks.ask(hint, 1, ([p]) => p && void ofFace(p).then((way) => emit('change', way)));
    } else if (to !== 'picked') {
        emit('change', axes.find(([key]) => key === to)?.[1] ?? null);
    }
}
</script>

<template>
    <v-select
        class="mt-2"
        :label="label"
        :items="items"
        :model-value="chosen"
        :data-testid="testid"
        @update:model-value="choose"
    />
</template>
