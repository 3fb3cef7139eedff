<script setup lang="ts">
// The tools of a station: those that can be begun on the part, then the others with the reason why not.
import { computed } from 'vue';
import { useTools } from '../stores/tools';
import type { StationKey } from '../text';

const props = defineProps<{ station: StationKey }>();
const tools = useTools();
const groups = computed(() => tools.groups(props.station));
const others = computed(() => tools.lacking(props.station));
</script>

<template>
    <template v-for="(g, n) in groups" :key="g.name">
        <p v-if="groups.length > 1" class="small-caps" :class="{ next: n }">{{ g.name }}</p>
        <button
            v-for="t in g.list"
            :key="t.key"
            type="button"
            class="tool"
            :data-testid="`tools-${t.key}`"
            @click="tools.start(t.key)"
        >
            <span class="heading">{{ t.name }}</span><span class="soft">{{ t.hint }}</span>
        </button>
    </template>
    <template v-if="others.length">
        <p class="small-caps not">Not for this part as it is</p>
        <ul>
            <li v-for="t in others" :key="t.key" class="tool lacking" :data-testid="`lacks-${t.key}`">
                <span class="heading">{{ t.name }}</span><span>{{ t.lacking }}</span>
            </li>
        </ul>
    </template>
</template>

<style scoped>
.tool {
    display: flex;
    flex-direction: column;
    width: 100%;
    padding: 6px 4px;
    text-align: left;
    cursor: pointer;
}
button.tool:hover {
    background: rgb(var(--v-theme-background));
}
.next,
.not {
    margin-top: 12px;
}
ul {
    list-style: none;
}
.lacking {
    cursor: default;
    color: rgb(var(--v-theme-on-surface) / 62%);
}
</style>
