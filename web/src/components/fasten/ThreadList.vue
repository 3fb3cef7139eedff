<script setup lang="ts">
// The threads of the part: how many of which, cut or only marked, and them cut to be looked at.
import { computed } from 'vue';
import { millimetres } from '../../format';
import { useFasten } from '../../stores/fasten';
import TaskProgress from '../TaskProgress.vue';
import CheckRow from '../../tools/fields/CheckRow.vue';

const fasten = useFasten();
const rows = computed(() => {
    const groups = new Map<string, { text: string; cut: boolean; count: number; step: number }>();
    for (const { step, mark } of fasten.there) {
        const where = mark.gender === 'internal' ? 'in a bore' : 'on a pin';
        const text = `${mark.name}, ${where}, ${millimetres(mark.length)} long`;
        const held = groups.get(`${step} ${text}`);
        if (held) held.count++;
        else groups.set(`${step} ${text}`, { text, cut: mark.cut, count: 1, step });
    }
    return [...groups.values()];
});
</script>

<template>
    <section v-if="rows.length" class="threads" aria-label="Threads">
        <p class="small-caps">Threads</p>
        <ul data-testid="threads">
            <li v-for="r in rows" :key="r.text + r.step">
                <b class="figure">{{ r.count }} ×</b> {{ r.text }}
                <span class="soft">{{ r.cut ? 'cut' : 'marked' }} in step {{ r.step }}</span>
            </li>
        </ul>
        <template v-if="fasten.marked.length">
            <p class="soft">
                Marked threads are cut at release. Volume and mass are of the part without them.
            </p>
            <CheckRow
                :value="fasten.showsCut"
                label="Look at them cut"
                testid="show-cut"
                @change="fasten.showCut($event)"
            />
        </template>
        <TaskProgress v-if="fasten.task" :task="fasten.task" what="Working" @cancel="fasten.stop()" />
        <p v-if="fasten.problem" class="problem" role="alert">{{ fasten.problem.detail }}</p>
    </section>
</template>

<style scoped>
.threads {
    margin: 8px 0;
}
ul {
    list-style: none;
    margin: 4px 0;
}
li {
    padding: 4px 0;
    border-top: 1px solid rgb(var(--v-theme-rule));
}
.problem {
    color: rgb(var(--v-theme-error));
}
</style>
