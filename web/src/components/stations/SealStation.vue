<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../../stores/bench';
import { useTools } from '../../stores/tools';
import FindingsList from '../FindingsList.vue';
import OpenTool from '../OpenTool.vue';
import ToolList from '../ToolList.vue';

const bench = useBench();
const tools = useTools();
const part = computed(() => bench.part);
const blocking = computed(() => bench.findings.filter((f) => f.severity === 'blocks').length);
const plan = computed(() => tools.called('plan'));
</script>

<template>
    <p v-if="!part" class="soft">Bring a part in first.</p>
    <template v-else>
        <div class="head">
            <p data-testid="seal-summary">
                <template v-if="part.figures.state === 'sealed'"
                    ><b>{{ part.name }}</b> is a proved solid.</template
                >
                <template v-else
                    ><b>{{ part.name }}</b
                    >: {{ blocking }} {{ blocking === 1 ? 'finding blocks' : 'findings block' }} a
                    solid.</template
                >
            </p>
            <v-btn
                v-if="plan && part.figures.state !== 'sealed'"
                variant="flat"
                color="primary"
                size="small"
                data-testid="tool-plan"
                :title="plan.hint"
                @click="tools.start(plan.key)"
                >{{ plan.name }}</v-btn
            >
        </div>
        <OpenTool />
        <FindingsList :findings="bench.findings" />
        <details class="tools ruled-top">
            <summary class="small-caps">All tools</summary>
            <ToolList station="seal" />
        </details>
    </template>
</template>

<style scoped>
.head {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
    margin-bottom: 8px;
}
.tools {
    margin-top: 12px;
    padding-top: 8px;
}
summary {
    cursor: pointer;
}
</style>
