<script setup lang="ts">
// Letters: what they say and how high they are; a click on the board places them.
import { usePen } from '../stores/pen';
import CheckRow from '../tools/fields/CheckRow.vue';
import LengthField from '../tools/fields/LengthField.vue';

const pen = usePen();
</script>

<template>
    <div class="letters" data-enter="own">
        <input
            v-model="pen.letters.text"
            maxlength="200"
            aria-label="What the letters say"
            data-testid="letters-text"
            @keydown.stop
        />
        <LengthField
            label="Height of a capital"
            :value="pen.letters.height"
            testid="letters-height"
            @change="pen.letters.height = $event!"
        />
        <LengthField
            label="Turned by"
            suffix="°"
            signed
            :value="pen.letters.turned"
            testid="letters-turned"
            @change="pen.letters.turned = $event!"
        />
        <CheckRow
            label="To both sides of its place"
            :value="pen.letters.middle"
            @change="pen.letters.middle = $event"
        />
    </div>
</template>

<style scoped>
.letters {
    margin-top: 4px;
    padding: 4px 8px 8px;
    border-left: 2px solid rgb(var(--v-theme-rule));
}
input {
    width: 100%;
    padding: 4px 6px;
    color: inherit;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 3px;
    background: rgb(var(--v-theme-background));
}
</style>
