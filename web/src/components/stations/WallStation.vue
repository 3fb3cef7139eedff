<script setup lang="ts">
// How thick the part is, where it is thin, and the tools that make walls.
import * as f from '../../format';
import { useBench } from '../../stores/bench';
import { useWalls } from '../../stores/walls';
import ClearanceLine from '../ClearanceLine.vue';
import FindingsList from '../FindingsList.vue';
import OpenTool from '../OpenTool.vue';
import ProcessFields from '../ProcessFields.vue';
import ToolList from '../ToolList.vue';
import CheckRow from '../../tools/fields/CheckRow.vue';
import WaitLine from '../WaitLine.vue';
import WallSpread from '../WallSpread.vue';

const bench = useBench();
const walls = useWalls();
</script>

<template>
    <p v-if="!bench.part" class="soft">Bring a part in first.</p>
    <template v-else>
        <OpenTool>
            <ProcessFields />
            <CheckRow
                :value="walls.outside"
                label="Gaps and slots instead of walls"
                testid="outside"
                @change="walls.outside = $event"
            />
            <p v-if="!walls.measurable" class="reason" data-testid="no-wall">
                {{ bench.part.name }} is {{ bench.part.figures.reason }}: there is no wall to measure. Thicken
                it, or seal it first.
            </p>
            <WaitLine
                v-else-if="!walls.report"
                what="Measuring the walls"
                :far="walls.measuring.far"
                :stopped="walls.measuring.stopped"
                @stop="walls.measuring.stop"
                @again="walls.measure"
            />
            <template v-else>
                <p data-testid="wall-summary">
                    <template v-if="walls.report.least == null">Nothing lies opposite anything.</template>
                    <template v-else>
                        Thinnest <b class="figure">{{ f.millimetres(walls.report.least) }}</b>, half of it
                        below
                        <span class="figure">{{ f.millimetres(walls.report.median ?? 0) }}</span>
                    </template>
                </p>
                <WallSpread />
            </template>
            <template v-if="walls.measurable">
                <WaitLine
                    v-if="!walls.found"
                    what="Looking for what is too thin"
                    :far="walls.looking.far"
                    :stopped="walls.looking.stopped"
                    @stop="walls.looking.stop"
                    @again="walls.look"
                />
                <div v-else data-testid="wall-findings">
                    <FindingsList :findings="walls.found.findings">
                        <template #none>Nothing is too thin, too tight or too sharp for this.</template>
                    </FindingsList>
                </div>
            </template>
            <ClearanceLine />
            <ToolList station="wall" />
        </OpenTool>
    </template>
</template>

<style scoped>
.reason {
    margin: 8px 0;
    padding: 8px 10px;
    border-left: 3px solid rgb(var(--v-theme-warning));
    background: rgb(var(--v-theme-background));
}
</style>
