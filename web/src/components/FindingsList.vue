<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import type { Finding } from '../api/client';
import { groupFindings } from '../findings';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import FindingRow from './FindingRow.vue';

const { findings } = defineProps<{ findings: readonly Finding[] }>();
const bench = useBench();
const forecast = useForecast();
/** More of a kind than this are drawn as they come into sight. */
const DRAWN = 60;
const scrolls = ref<{ scrollToIndex: (index: number) => void }[]>([]);
const opened = ref(new Set<Finding['kind']>());
const groups = computed(() => groupFindings(findings, bench.examination));
/** A group of many stays closed until it is opened, or one of it is chosen. */
const isOpen = (kind: Finding['kind'], many: boolean) =>
    !many || opened.value.has(kind) || bench.finding?.kind === kind;

function toggle(kind: Finding['kind']) {
    const next = new Set(opened.value);
    if (!next.delete(kind)) next.add(kind);
    opened.value = next;
}

watch(
    () => bench.findingKey,
    async (key) => {
        if (!key) return;
        await nextTick();
        const at = groups.value.map((g) => g.findings.findIndex((f) => f.key === key)).find((i) => i >= 0);
        const long =
            (bench.finding && groups.value.find((g) => g.kind === bench.finding!.kind)?.findings.length) ?? 0;
        if (at !== undefined && long > DRAWN) scrolls.value.forEach((s) => s.scrollToIndex(at));
        document.querySelector(`[data-finding="${CSS.escape(key)}"]`)?.scrollIntoView({ block: 'nearest' });
    },
);
watch(
    () => bench.part?.id,
    () => (opened.value = new Set()),
);
</script>

<template>
    <p v-if="bench.part && !bench.examination" class="soft" role="status">Examining the part …</p>
    <p v-else-if="!findings.length" class="soft" data-testid="no-findings">
        <slot name="none">Nothing was found wrong: no naked edge, no crossing, all sides agree.</slot>
    </p>
    <ul v-else class="findings" aria-label="Findings">
        <template v-for="g in groups" :key="g.kind">
            <li v-if="g.many" class="group">
                <button
                    type="button"
                    :aria-expanded="isOpen(g.kind, g.many)"
                    :data-testid="`group-${g.kind}`"
                    @click="toggle(g.kind)"
                >
                    {{ isOpen(g.kind, g.many) ? '▾' : '▸' }} {{ g.title }}
                </button>
                <v-btn
                    v-if="g.forAll"
                    size="x-small"
                    variant="outlined"
                    :data-testid="`all-${g.kind}`"
                    @click="forecast.consider(g.forAll.label, g.forAll.action)"
                    >{{ g.forAll.label }}</v-btn
                >
            </li>
            <template v-if="isOpen(g.kind, g.many)">
                <li v-if="g.findings.length > DRAWN">
                    <!-- Thousands are drawn only as far as they are in sight. -->
                    <v-virtual-scroll
                        ref="scrolls"
                        tag="ul"
                        class="many"
                        :items="g.findings"
                        :height="360"
                        :item-height="52"
                    >
                        <template #default="{ item }"><FindingRow :f="item" /></template>
                    </v-virtual-scroll>
                </li>
                <template v-else>
                    <FindingRow v-for="f in g.findings" :key="f.key" :f="f" />
                </template>
            </template>
        </template>
    </ul>
</template>

<style scoped>
.findings {
    list-style: none;
    border-top: 1px solid rgb(var(--v-theme-rule));
}
.many {
    list-style: none;
}
.group {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
    padding: 6px 4px;
    border-bottom: 1px solid rgb(var(--v-theme-rule));
}
.group button {
    font-weight: 600;
    cursor: pointer;
}
</style>
