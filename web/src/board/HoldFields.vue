<script setup lang="ts">
// What can be held of the lines and places that are pointed at: figures with their value, rules in a word.
import { nextTick, reactive, watch } from 'vue';
import LengthField from '../tools/fields/LengthField.vue';
import { useForecast } from '../stores/forecast';
import { useHolding } from '../stores/holding';

const holding = useHolding();
const forecast = useForecast();
/** What was typed into the figure of an offer, by its row. */
const typed = reactive<Record<string, number>>({});
watch(
    () => holding.things,
    () => Object.keys(typed).forEach((k) => delete typed[k]),
);
/** With the figure as it is written, also if that was a moment ago. */
async function hold(o: (typeof holding.offers)[number]) {
    forecast.tellTyped();
    await nextTick();
    await holding.hold(o, typed[o.text]);
}
const tidy = (x: number) => Number(x.toPrecision(9));
</script>

<template>
    <div class="hold" data-enter="own" data-testid="hold-fields">
        <p v-if="!holding.things.length" class="soft">
            Click one or two ends, centres or lines; then what is to be held of them.
        </p>
        <ul class="things" aria-label="Pointed at">
            <li v-for="t in holding.things" :key="t">
                <button type="button" :title="`Let ${t} go`" @click="holding.toggle(t)">{{ t }}</button>
            </li>
        </ul>
        <p v-if="holding.things.length && !holding.offers.length" class="soft">
            Nothing can be held of these together.
        </p>
        <form
            v-for="o in holding.offers.filter((o) => o.figure != null)"
            :key="o.text"
            class="figure-row"
            @submit.prevent="hold(o)"
        >
            <LengthField
                :label="o.word"
                :suffix="o.unit"
                signed
                :value="typed[o.text] ?? tidy(o.figure!)"
                :testid="`hold-${o.word.replace(' ', '-')}`"
                @change="typed[o.text] = $event!"
            />
            <v-btn
                size="small"
                variant="outlined"
                type="submit"
                :data-testid="`do-hold-${o.word.replace(' ', '-')}`"
                >Hold</v-btn
            >
        </form>
        <div class="rules">
            <v-btn
                v-for="o in holding.offers.filter((o) => o.figure == null)"
                :key="o.text"
                size="small"
                variant="outlined"
                :data-testid="`do-hold-${o.word.replace(' ', '-')}`"
                :title="o.text"
                @click="holding.hold(o)"
                >{{ o.word }}</v-btn
            >
        </div>
    </div>
</template>

<style scoped>
.hold {
    margin-top: 4px;
    padding: 4px 8px 8px;
    border-left: 2px solid rgb(var(--v-theme-rule));
}
.things {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    list-style: none;
}
.things button {
    padding: 1px 6px;
    font-size: 12px;
    border-radius: 3px;
    background: rgb(var(--v-theme-primary) / 14%);
    cursor: pointer;
}
.figure-row {
    display: grid;
    grid-template-columns: 1fr auto;
    align-items: end;
    gap: 8px;
}
.rules {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    margin-top: 6px;
}
</style>
