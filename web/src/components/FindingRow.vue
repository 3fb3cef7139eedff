<script setup lang="ts">
import { computed } from 'vue';
import type { Finding } from '../api/client';
import { useBench } from '../stores/bench';
import { useForecast } from '../stores/forecast';
import { useTrials } from '../stores/trials';
import { useWalls } from '../stores/walls';
import { told } from '../format';
import { severities } from '../text';

const props = defineProps<{ f: Finding }>();
const bench = useBench();
const walls = useWalls();
const since = computed(() => walls.since(props.f.key));
const forecast = useForecast();
const trials = useTrials();

/** Each remedy with what trying it came to. */
const remedies = computed(() => props.f.remedies.map((r) => ({ r, trial: trials.of(r.operation) })));
/** The first that was not found to fail. */
const best = computed(() => remedies.value.findIndex((o) => o.trial?.is !== 'fails'));

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
                <div v-for="({ r, trial }, i) in remedies" :key="r.label" class="remedy">
                    <v-btn
                        size="small"
                        :variant="i === best ? 'flat' : 'outlined'"
                        :color="i === best ? 'primary' : undefined"
                        :data-testid="`remedy-${i}`"
                        @click="forecast.consider(r.label, r.operation)"
                        >{{ told(r.label) }}</v-btn
                    >
                    <span v-if="trial?.is === 'trying'" class="soft">being tried …</span>
                    <span v-else-if="trial?.is === 'works'" :data-testid="`trial-${i}`"
                        >✓ {{ told(trial.told) }}</span
                    >
                    <span v-else-if="trial" class="fails" :data-testid="`trial-${i}`"
                        >✗ {{ told(trial.why) }}</span
                    >
                </div>
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
.remedy + .remedy {
    margin-top: 6px;
}
.remedy span {
    display: block;
    margin-top: 2px;
}
.fails {
    color: rgb(var(--v-theme-warning));
}
</style>
