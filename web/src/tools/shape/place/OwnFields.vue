<script setup lang="ts">
// How a part is moved, turned and scaled.
import type { Action } from '../../../api/client';
import { useBench } from '../../../stores/bench';
import { useMeshes } from '../../../stores/meshes';
import { usePicks } from '../../picking/picks';
import CheckRow from '../../fields/CheckRow.vue';
import ChoiceRow from '../../fields/ChoiceRow.vue';
import LengthField from '../../fields/LengthField.vue';
import PickLine from '../../fields/PickLine.vue';
import XyzFields from '../../fields/XyzFields.vue';

type Place = Extract<Action, { kind: 'shape.place' }>;
const { action: a } = defineProps<{ action: Place }>();
const picks = usePicks();
const bench = useBench();
const meshes = useMeshes();
const change = (action: Place) => picks.change(action);
const axes = (['x', 'y', 'z'] as const).map((value) => ({ value, title: value }));
const lay = () =>
    picks.ask('Click the face it is to lie on.', 1, async ([p]) => {
        if (!p) return;
        const own = p.on && p.on.part === bench.part?.id ? p.on.face : undefined;
        const face = own === undefined ? undefined : await meshes.anchor(bench.part!.mesh, own, p.at);
        change({ ...a, lay: face ?? [...p.at], to_bench: true });
    });
const measure = () =>
    picks.ask('Click both ends of the length you know.', 2, ([p, q]) => {
        if (!p || !q) return;
        const length = Math.hypot(...p.at.map((x, i) => x - q.at[i]!));
        const becomes = Number(length.toPrecision(4));
        change({ ...a, scale: null, measured: { between: [[...p.at], [...q.at]], becomes } });
    });
</script>

<template>
    <XyzFields label="Move" :value="a.by ?? [0, 0, 0]" testid="move" @change="change({ ...a, by: $event })" />
    <LengthField
        label="Turn"
        suffix="°"
        signed
        :value="a.turn?.degrees ?? 0"
        testid="turn"
        @change="change({ ...a, turn: $event ? { axis: a.turn?.axis ?? 'z', degrees: $event } : null })"
    />
    <ChoiceRow
        v-if="a.turn"
        label="About"
        :items="axes"
        :value="a.turn.axis"
        name="axis"
        @change="a.turn && change({ ...a, turn: { ...a.turn, axis: $event as typeof a.turn.axis } })"
    />
    <LengthField
        v-if="a.measured"
        label="The measured length becomes"
        empty="as it is"
        :value="a.measured.becomes"
        testid="becomes"
        @change="
            change({
                ...a,
                measured: $event && a.measured ? { ...a.measured, becomes: $event } : null,
            })
        "
    />
    <LengthField
        v-else
        label="Scale"
        suffix="×"
        :value="a.scale ?? 1"
        testid="scale"
        @change="change({ ...a, scale: $event === 1 ? null : $event })"
    />
    <div class="d-flex ga-2 mt-1">
        <v-btn size="small" variant="outlined" data-testid="lay" @click="lay">Lay on a face</v-btn>
        <v-btn size="small" variant="outlined" data-testid="measure" @click="measure"
            >Scale to a length</v-btn
        >
    </div>
    <PickLine />
    <CheckRow
        v-if="a.lay"
        label="Laid on the picked face"
        :value="true"
        @change="change({ ...a, lay: null })"
    />
    <CheckRow label="Set on the bench" :value="a.to_bench" @change="change({ ...a, to_bench: $event })" />
</template>
