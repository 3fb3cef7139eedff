<script setup lang="ts">
// A handle on the top of a domed cover: dragged, it sets the height.
import * as THREE from 'three';
import { computed, ref, watch } from 'vue';
import { millimetres } from '../../format';
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import { usePicks } from '../picking/picks';
import type { Bench } from '../../viewport/bench';
import type { Xyz } from '../../rimRuns';
import AxisHandle from './AxisHandle.vue';

const props = defineProps<{ view: Bench | null; drawn: number }>();
const bench = useBench();
const forecast = useForecast();
const picks = usePicks();

/** The one rim that is covered domed. */
const rim = computed(() => {
    const a = forecast.draft;
    if (a?.kind !== 'seal.cover_rim' || a.style !== 'domed' || a.as_one) return null;
    const rims = bench.examination?.rims.filter((r) => r.closed) ?? [];
    const chosen =
        a.rims === 'all'
            ? rims
            : rims.filter((r) =>
                  (a.rims as { picked: { near: number[] }[] }).picked.some((p) =>
                      p.near.every((x, i) => x === r.pick.near[i]),
                  ),
              );
    return chosen.length === 1 ? chosen[0]! : null;
});
/** While it is dragged the handle knows best where it is. */
const dragging = ref(false);
const top = ref<{ at: THREE.Vector3; height: number; normal: THREE.Vector3 } | null>(null);
watch(
    [rim, () => forecast.ready, () => props.drawn],
    () => {
        if (dragging.value) return;
        const line = picks.rimLines.find((l) => l.name === rim.value?.name);
        if (!line || !forecast.ready || !props.view) {
            top.value = null;
            return;
        }
        const points = line.points.map((p) => new THREE.Vector3(...p));
        const middle = points.reduce((s, p) => s.add(p), new THREE.Vector3()).divideScalar(points.length);
        const normal = points
            .slice(1)
            .reduce(
                (n, p, i) => n.add(points[i]!.clone().sub(middle).cross(p.clone().sub(middle))),
                new THREE.Vector3(),
            )
            .normalize();
        const found = props.view.probe.domeTop(middle, normal);
        top.value = found && { ...found, normal };
    },
    { flush: 'post' },
);
/** The sense of a positive height: the way the dome comes by itself. */
const sense = computed(() => {
    const a = forecast.draft;
    const turned = a?.kind === 'seal.cover_rim' && (a.height ?? 1) < 0 ? -1 : 1;
    return Math.sign(top.value?.height || 1) * turned;
});
const heightAfter = (by: number) => (top.value?.height ?? 0) * sense.value + by;
function moved(by: number) {
    const a = forecast.draft;
    if (a?.kind === 'seal.cover_rim') picks.change({ ...a, height: Number(heightAfter(by).toPrecision(3)) });
}
</script>

<template>
    <AxisHandle
        v-if="top"
        :view="view"
        :drawn="drawn"
        :at="top.at.toArray() as Xyz"
        :way="top.normal.clone().multiplyScalar(sense).toArray() as Xyz"
        :text="(by) => millimetres(heightAfter(by))"
        label="Height of the dome"
        testid="dome-handle"
        @moving="dragging = $event !== null"
        @moved="moved"
    />
</template>
