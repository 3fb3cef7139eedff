<script setup lang="ts">
// How two threads go together.
import { useFits } from '../../stores/fits';

const fits = useFits();
</script>

<template>
    <div v-if="fits.fit" class="fit" :class="{ no: !fits.fit.report.fits }" data-testid="fit">
        <p class="heading">
            {{ fits.fit.of }}: {{ fits.fit.report.fits ? 'goes together' : 'does not go together' }}
        </p>
        <p v-for="t in fits.fit.report.told" :key="t">{{ t }}</p>
    </div>
</template>

<style scoped>
.fit {
    margin-top: 8px;
    padding: 6px 10px;
    border-left: 3px solid rgb(var(--v-theme-success));
    background: rgb(var(--v-theme-background));
}
.fit.no {
    border-left-color: rgb(var(--v-theme-error));
}
</style>
