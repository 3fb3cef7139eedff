<script setup lang="ts">
// A part of a sheet that is opened when it is wanted; what was open stays so.
import { ref, watch } from 'vue';

const props = defineProps<{ name: string; hint: string }>();
const key = `nimbet.fold.${props.name}`;
const open = ref(sessionStorage.getItem(key) === 'yes');
watch(open, (now) => sessionStorage.setItem(key, now ? 'yes' : 'no'));
</script>

<template>
    <section class="fold">
        <button
            type="button"
            :aria-expanded="open"
            :data-testid="`fold-${name.toLowerCase()}`"
            @click="open = !open"
        >
            <span class="heading">{{ open ? '▾' : '▸' }} {{ name }}</span
            ><span v-if="!open" class="soft">{{ hint }}</span>
        </button>
        <div v-if="open" class="inside"><slot /></div>
    </section>
</template>

<style scoped>
.fold {
    border-top: 1px solid rgb(var(--v-theme-rule));
}
button {
    display: flex;
    flex-direction: column;
    width: 100%;
    padding: 7px 4px;
    text-align: left;
    cursor: pointer;
}
.inside {
    padding: 0 4px 10px;
}
</style>
