<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../../stores/bench';
import { useForecast } from '../../stores/forecast';
import { tools, toolsFor } from '../../tools';
import FindingsList from '../FindingsList.vue';
import ForecastPanel from '../ForecastPanel.vue';
import ToolFields from '../ToolFields.vue';

const bench = useBench();
const forecast = useForecast();
const part = computed(() => bench.part);
const blocking = computed(() => bench.findings.filter((f) => f.severity === 'blocks').length);
const plan = tools[0]!;
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
                v-if="part.figures.state !== 'sealed'"
                variant="flat"
                color="primary"
                size="small"
                data-testid="tool-plan"
                :title="plan.hint"
                @click="forecast.consider(plan.name, plan.action(bench.examination))"
                >{{ plan.name }}</v-btn
            >
        </div>
        <div v-if="forecast.applied" class="applied" role="status" data-testid="applied">
            <p class="heading">Done: {{ forecast.applied.title }}</p>
            <p v-for="d in forecast.applied.report.done" :key="d">{{ d }}</p>
            <p v-for="l in forecast.applied.report.left" :key="l" class="left">{{ l }}</p>
        </div>
        <ForecastPanel v-if="forecast.draft"><ToolFields /></ForecastPanel>
        <FindingsList />
        <details class="tools ruled-top">
            <summary class="small-caps">All tools</summary>
            <button
                v-for="t in toolsFor(bench.examination)"
                :key="t.key"
                type="button"
                class="tool"
                :data-testid="`tools-${t.key}`"
                @click="forecast.consider(t.name, t.action(bench.examination))"
            >
                <span class="heading">{{ t.name }}</span><span class="soft">{{ t.hint }}</span>
            </button>
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
.applied {
    padding: 8px 10px;
    margin-bottom: 8px;
    border-left: 3px solid rgb(var(--v-theme-success));
    background: rgb(var(--v-theme-background));
    font-size: 13px;
}
.left {
    color: rgb(var(--v-theme-warning));
}
.tools {
    margin-top: 12px;
    padding-top: 8px;
}
summary {
    cursor: pointer;
}
.tool {
    display: flex;
    flex-direction: column;
    width: 100%;
    padding: 6px 4px;
    text-align: left;
    cursor: pointer;
}
.tool:hover {
    background: rgb(var(--v-theme-background));
}
</style>
