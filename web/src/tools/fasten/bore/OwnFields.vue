<script setup lang="ts">
// Bores: where, of what form, how deep, and what the process needs added.
import { computed } from 'vue';
import type { Action } from '../../../api/client';
import type { Xyz } from '../../../rimRuns';
import { useFasten } from '../../../stores/fasten';
import { usePicks } from '../../picking/picks';
import CheckRow from '../../fields/CheckRow.vue';
import DirectionField from '../../fields/DirectionField.vue';
import LengthField from '../../fields/LengthField.vue';
import OpeningField from './OpeningField.vue';
import PlacesFields from './PlacesFields.vue';
import ThreadFields from '../ThreadFields.vue';
import WidthFields from './WidthFields.vue';

type Bore = Extract<Action, { kind: 'fasten.bore' }>;
type Form = Bore['form'];
const { action: a } = defineProps<{ action: Bore }>();
const picks = usePicks();
const fasten = useFasten();
const change = (part: Partial<Bore>) => picks.change({ ...a, ...part });
const key = computed(() => Object.keys(a.form)[0] as string);
const forms = [
    { value: 'plain', title: 'Plain' },
    { value: 'countersunk', title: 'Countersunk' },
    { value: 'counterbored', title: 'Counterbored' },
    { value: 'spotfaced', title: 'Spot-faced' },
    { value: 'tapped', title: 'To be tapped' },
    { value: 'insert', title: 'Pocket for an insert' },
    { value: 'teardrop', title: 'Teardrop, across the layers' },
    { value: 'slot', title: 'Slot' },
    { value: 'opening', title: 'Opening of any outline' },
];
/** The parameters of the form, whichever it is. */
const held = computed(() => Object.values(a.form)[0] as Record<string, never>);
const width = computed(() =>
    'width' in held.value ? (held.value as unknown as { width: number }).width : 5,
);
const put = (part: object) =>
    change({ form: { [key.value]: { ...held.value, ...part } } as unknown as Form });
function setForm(to: string) {
    const w = width.value;
    const room = { screw: 'M4', class: 'medium' as const };
    const forms: Record<string, Form> = {
        plain: { plain: { width: w } },
        countersunk: { countersunk: { width: typeof w === 'object' ? w : room, angle: 90 } },
        counterbored: { counterbored: { width: typeof w === 'object' ? w : room } },
        spotfaced: { spotfaced: { width: typeof w === 'object' ? w : room, depth: 0.5 } },
        tapped: { tapped: { size: '' } },
        insert: { insert: { screw: 'M3' } },
        teardrop: { teardrop: { width: w, up: [0, 0, 1] } },
        slot: { slot: { width: w, length: 10, way: [1, 0, 0] } },
        opening: {
            opening: {
                outline: [
                    [-5, -5],
                    [5, -5],
                    [5, 5],
                    [-5, 5],
                ],
            },
        },
    };
    change({ form: forms[to]! });
}
const threaded = computed(() => ('threaded' in a.form ? a.form.threaded : null));
const numberOf = (name: string) => (held.value as Record<string, number | null | undefined>)[name] ?? null;
const reaches = [
    { value: 'all', title: 'Through all' },
    { value: 'wall', title: 'Through the next wall' },
    { value: 'depth', title: 'To a depth' },
    { value: 'face', title: 'To a face' },
];
const reach = computed(() => (typeof a.reach === 'object' ? Object.keys(a.reach)[0]! : (a.reach ?? 'all')));
function setReach(to: string) {
    if (to === 'depth') change({ reach: { depth: 10 } });
    else if (to === 'face') {
        picks.ask('Click the face they go to.', 1, ([p]) => p && change({ reach: { face: p.at } }));
    } else change({ reach: to as 'all' | 'wall' });
}
</script>

<template>
    <PlacesFields :action="a" />
    <template v-if="threaded">
        <ThreadFields :thread="threaded.thread" @change="put({ thread: $event })" />
    </template>
    <template v-else>
        <v-select
            class="mt-2"
            label="Form"
            :items="forms"
            :model-value="key"
            data-testid="form"
            @update:model-value="setForm"
        />
        <WidthFields v-if="'width' in held" :width="width" @change="put({ width: $event })" />
        <v-autocomplete
            v-if="key === 'tapped'"
            class="mt-2"
            label="Thread it is tapped for"
            :items="fasten.sizes.map((s) => s.name)"
            :model-value="('tapped' in a.form && a.form.tapped.size) || null"
            data-testid="tapped"
            @update:model-value="$event && put({ size: $event })"
        />
        <v-select
            v-if="key === 'insert'"
            class="mt-2"
            label="Insert for"
            :items="
                (fasten.tables?.pockets ?? []).map((p) => ({
                    value: `M${p.screw}`,
                    title: `M${p.screw}: ${p.diameter} mm wide, ${p.depth} mm deep`,
                }))
            "
            :model-value="'insert' in a.form ? a.form.insert.screw : null"
            data-testid="insert"
            @update:model-value="put({ screw: $event })"
        />
        <LengthField
            v-if="['countersunk', 'counterbored', 'spotfaced'].includes(key)"
            label="Head"
            :empty="typeof width === 'object' ? 'by the screw' : undefined"
            :value="numberOf('head')"
            testid="head"
            @change="put({ head: $event })"
        />
        <LengthField
            v-if="['counterbored', 'spotfaced', 'insert'].includes(key)"
            label="Its depth"
            :empty="key === 'spotfaced' ? undefined : 'by the screw'"
            :value="numberOf('depth')"
            testid="head-depth"
            @change="put({ depth: $event })"
        />
        <LengthField
            v-if="key === 'countersunk'"
            label="Angle"
            suffix="°"
            :value="numberOf('angle')"
            testid="angle"
            @change="put({ angle: $event })"
        />
        <LengthField
            v-if="key === 'insert'"
            label="Diameter"
            empty="table"
            :value="numberOf('diameter')"
            testid="insert-diameter"
            @change="put({ diameter: $event })"
        />
        <LengthField
            v-if="key === 'slot'"
            label="Middle to middle"
            :value="numberOf('length')"
            testid="slot-length"
            @change="put({ length: $event })"
        />
        <DirectionField
            v-if="'slot' in a.form"
            label="Long"
            both-ways
            :value="(a.form.slot.way as Xyz | undefined) ?? [1, 0, 0]"
            testid="slot-way"
            @change="put({ way: $event })"
        />
        <DirectionField
            v-if="'teardrop' in a.form"
            label="Build direction"
            :value="(a.form.teardrop.up as Xyz | undefined) ?? [0, 0, 1]"
            testid="teardrop-up"
            @change="put({ up: $event })"
        />
        <OpeningField
            v-if="'opening' in a.form"
            :outline="a.form.opening.outline"
            @change="put({ outline: $event })"
        />
    </template>
    <v-select
        v-if="key !== 'insert'"
        class="mt-2"
        label="How deep"
        :items="reaches"
        :model-value="reach"
        data-testid="reach"
        @update:model-value="setReach"
    />
    <LengthField
        v-if="typeof a.reach === 'object' && 'depth' in a.reach"
        label="Depth"
        :value="a.reach.depth"
        testid="depth"
        @change="change({ reach: { depth: $event! } })"
    />
    <CheckRow
        v-if="threaded"
        :value="threaded.marked"
        label="Only marked here; cut at release"
        testid="marked"
        @change="put({ marked: $event })"
    />
    <details class="more" data-testid="more">
        <summary>More: {{ threaded ? 'lead-in, threaded depth, ' : 'allowance, ' }}direction, grid</summary>
        <template v-if="threaded">
            <LengthField
                label="Lead-in at the mouths"
                empty="by the size"
                hint="Its diameter; 0 for none"
                signed
                :value="threaded.lead_in"
                testid="lead-in"
                @change="put({ lead_in: $event })"
            />
            <LengthField
                label="Threaded"
                empty="all of it"
                hint="Two pitches stay free above a blind bottom"
                :value="threaded.threaded"
                testid="threaded"
                @change="put({ threaded: $event })"
            />
        </template>
        <LengthField
            v-else
            label="Added to the diameter"
            hint="What the process makes bores narrower by"
            signed
            :value="a.allowance ?? 0"
            testid="allowance"
            @change="change({ allowance: $event! })"
        />
        <DirectionField
            label="Direction"
            open="Square to the surface"
            :value="(a.along as Xyz | undefined) ?? null"
            testid="along"
            @change="change({ along: $event })"
        />
        <LengthField
            label="Grid for clicks"
            empty="none"
            :value="picks.grid || null"
            testid="grid"
            @change="picks.grid = $event ?? 0"
        />
    </details>
</template>

<style scoped>
.more {
    margin-top: 6px;
    font-size: 13px;
}
summary {
    cursor: pointer;
}
</style>
