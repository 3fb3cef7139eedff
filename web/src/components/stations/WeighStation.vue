<script setup lang="ts">
// The figures on which money, metal and fit depend.
import { useBench } from '../../stores/bench';
import OpenTool from '../OpenTool.vue';
import ToolList from '../ToolList.vue';
import BillPanel from '../weigh/BillPanel.vue';
import CapacityPanel from '../weigh/CapacityPanel.vue';
import FoldPanel from '../weigh/FoldPanel.vue';
import MassPanel from '../weigh/MassPanel.vue';
import MeasurePanel from '../weigh/MeasurePanel.vue';
import SectionPanel from '../weigh/SectionPanel.vue';

const bench = useBench();
</script>

<template>
    <p v-if="!bench.part" class="soft">Bring a part in first.</p>
    <template v-else>
        <OpenTool>
            <MassPanel />
            <FoldPanel name="Capacity" hint="What a vessel holds, and where it runs over"
                ><CapacityPanel
            /></FoldPanel>
            <FoldPanel name="Sections" hint="Cuts to look at; nothing is changed"><SectionPanel /></FoldPanel>
            <FoldPanel name="Measure" hint="Lengths, radii, angles; kept as notes"
                ><MeasurePanel
            /></FoldPanel>
            <FoldPanel name="Job" hint="All parts: mass, cost, and what fits the bench"
                ><BillPanel
            /></FoldPanel>
            <ToolList station="weigh" />
        </OpenTool>
    </template>
</template>
