<script setup lang="ts">
// Where a plane is: square to an axis, by a face, or through three points.
import { computed } from 'vue';
import { axisOf, offsetOf, offsetTo, planeThrough, type Plane } from '../../planes';
import { useBench } from '../../stores/bench';
import { useMeshes } from '../../stores/meshes';
import { usePicks } from '../picking/picks';
import ChoiceRow from './ChoiceRow.vue';
import LengthField from './LengthField.vue';

const props = withDefaults(defineProps<{ plane: Plane; testid?: string }>(), { testid: 'at' });
const emit = defineEmits<{ change: [plane: Plane] }>();
const bench = useBench();
const meshes = useMeshes();
const picks = usePicks();
const axis = computed(() => axisOf(props.plane.normal));
const axes = computed(() => [
    ...['x', 'y', 'z'].map((value) => ({ value, title: value })),
    ...(axis.value === null ? [{ value: 'free', title: 'as picked' }] : []),
]);
function square(name: string) {
    const k = 'xyz'.indexOf(name);
    const f = bench.part?.figures;
    if (k < 0 || !f) return;
    const at = f.least.map((x, i) => Number((x + f.size[i]! / 2).toFixed(2)));
    emit('change', { at, normal: [0, 1, 2].map((i) => (i === k ? 1 : 0)) });
}
/** A face of the part itself is followed when earlier steps move it. */
const byFace = () =>
    picks.ask('Click a flat face of the part.', 1, async ([p]) => {
        if (!p?.normal || !bench.part) return;
        const own = p.on && p.on.part === bench.part.id ? p.on.face : undefined;
        const face = own === undefined ? undefined : await meshes.anchor(bench.part.mesh, own, p.at);
        emit('change', { at: [...p.at], normal: [...p.normal], face });
    });
const byPoints = () =>
    picks.ask('Click three points of the part that do not lie on a line.', 3, (points) => {
        const plane = planeThrough(points.map((p) => p.at));
        if (plane) emit('change', plane);
    });
</script>

<template>
    <ChoiceRow
        label="The plane is square to"
        :items="axes"
        :value="axis === null ? 'free' : 'xyz'[axis]!"
        :name="testid === 'at' ? 'axis' : `${testid}-axis`"
        @change="square($event)"
    />
    <LengthField
        :label="axis === null ? 'From the origin' : `At ${'xyz'[axis]}`"
        signed
        :value="offsetOf(plane)"
        :testid="testid"
        @change="$emit('change', offsetTo(plane, $event!))"
    />
    <p v-if="plane.face" class="text-medium-emphasis" data-testid="follows">It follows the picked face.</p>
    <div class="d-flex ga-2 mt-1">
        <v-btn size="small" variant="outlined" data-testid="plane-face" @click="byFace">By a face</v-btn>
        <v-btn size="small" variant="outlined" data-testid="plane-points" @click="byPoints"
            >Through three points</v-btn
        >
    </div>
</template>
