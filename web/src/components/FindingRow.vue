<script setup lang="ts">
import { computed } from 'vue';
import type { Finding } from '../api/client';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import { useWalls } from '../stores/walls';
import { told } from '../format';
import { severities } from '../text';

const props = defineProps<{ f: Finding }>();
const bench = useBench();
const walls = useWalls();
const since = computed(() => walls.since(props.f.key));
const forecast = useForecast();

function choose(f: Finding) {
    bench.selectFinding(bench.findingKey === f.key ? null : f.key);
}
</script>

<template>
    <li :data-finding="f.key" :class="{ chosen: f.key === bench.findingKey }">
        <button
            type="button"
            class="row"
            :aria-expanded="f.key === bench.findingKey"
            :data-testid="`finding-${f.key}`"
            @click="choose(f)"
        >
            <v-icon
                :icon="severities[f.severity].icon"
                :color="severities[f.severity].colour"
                size="18"
                :aria-label="severities[f.severity].word"
                :title="severities[f.severity].word"
            />
            <span>
                <span class="title">{{ f.title }}</span>
                <span class="figure size">{{ told(f.size) }}</span>
            </span>
        </button>
        <div v-if="f.key === bench.findingKey" class="more">
            <p data-testid="cause">{{ told(f.cause) }}</p>
            <p v-if="since" data-testid="since">
                So since step {{ since.number }}, <b>{{ since.name ?? since.title }}</b>.
            </p>
            <p class="soft"><b>If left:</b> {{ f.if_left }}</p>
            <div class="remedies">
                <v-btn
                    v-for="(r, i) in f.remedies"
                    :key="r.label"
                    size="small"
                    :variant="i === 0 ? 'flat' : 'outlined'"
                    :color="i === 0 ? 'primary' : undefined"
                    :data-testid="`remedy-${i}`"
                    @click="forecast.consider(r.label, r.operation)"
                    >{{ told(r.label) }}</v-btn
                >
                <p v-if="!f.remedies.length" class="soft">
                    {{
                        f.severity === 'notes'
                            ? 'Nothing needs to be done.'
                            : 'There is no remedy for this on the bench yet; mend it where the model was made.'
                    }}
                </p>
            </div>
        </div>
    </li>
</template>

<style scoped>
li {
    border-bottom: 1px solid rgb(var(--v-theme-rule));
    border-left: 3px solid transparent;
}
.chosen {
    border-left-color: rgb(var(--v-theme-primary));
    background: rgb(var(--v-theme-background));
}
.row {
    display: grid;
    grid-template-columns: 24px 1fr;
    width: 100%;
    padding: 7px 4px 7px 6px;
    text-align: left;
    cursor: pointer;
}
.title {
    display: block;
    font-weight: 500;
}
.size {
    display: block;
    font-size: 12px;
    opacity: 0.85;
}
.more {
    padding: 0 8px 10px 30px;
    font-size: 13px;
}
.more > * + * {
    margin-top: 6px;
}
.remedies {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
}
</style>
