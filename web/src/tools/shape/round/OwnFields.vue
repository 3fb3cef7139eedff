<script setup lang="ts">
// Roundings: the radius with what fits, and one of its own for each run, or several along it.
import type { Action, Schemas } from '../../../api/client';
import EdgeRuns from '../../fields/EdgeRuns.vue';
import LengthField from '../../fields/LengthField.vue';
import StepFields from '../../fields/StepFields.vue';
import { usePicks } from '../../picking/picks';
import type { Xyz } from '../../../rimRuns';
import AlongRun from './AlongRun.vue';
import { alongOf, withAlong, withOwn, type RadiusAt } from './own';

const { action: a } = defineProps<{ action: Extract<Action, { kind: 'shape.round' }> }>();
const picks = usePicks();
const setRadius = (radius: number | null) => radius && picks.changeByHand({ ...a, radius });
const setOwn = (run: Schemas['EdgeRun'], radius: number | null) =>
    picks.changeByHand({ ...a, also: withOwn(a.also ?? [], run.at as Xyz, radius) });
const setAlong = (run: Schemas['EdgeRun'], along: RadiusAt[]) =>
    picks.changeByHand({ ...a, also: withAlong(a.also ?? [], run.at as Xyz, along) });
const along = (run: Schemas['EdgeRun']) => alongOf(a.also ?? [], run.at as Xyz);
</script>

<template>
    <StepFields :but="['radius', 'far', 'leave', 'chord']" />
    <template v-if="!a.whole">
        <LengthField label="Radius" :value="a.radius" testid="radius" @change="setRadius" />
        <EdgeRuns :figure="a.radius" word="radius" @change="setRadius">
            <template #own="{ run, n }">
                <LengthField
                    v-if="!along(run).length"
                    label=""
                    empty=""
                    :value="run.own ? run.figure : null"
                    :testid="`run-own-${n}`"
                    @change="setOwn(run, $event)"
                />
            </template>
            <template #under="{ run, n }">
                <AlongRun
                    :run="run"
                    :n="n"
                    :along="along(run)"
                    :radius="run.figure ?? a.radius"
                    @change="setAlong(run, $event)"
                />
            </template>
        </EdgeRuns>
    </template>
    <StepFields :but="['on', 'whole', 'radius']" picked />
</template>
