<script setup lang="ts">
import { millimetres } from '../format';
import { deviationSteps } from '../viewport/materials';

defineProps<{ farthest: number }>();
const steps = deviationSteps.slice(1);
</script>

<template>
    <div
        class="scale"
        role="img"
        data-testid="deviation-scale"
        :aria-label="`Deviation scale from 0 to ${millimetres(farthest)}`"
    >
        <span class="small-caps">Off what came in</span>
        <template v-if="farthest > 0">
            <span class="step"><i :style="{ background: deviationSteps[0] }" />as it came in</span>
            <span v-for="(c, i) in steps" :key="c" class="step figure">
                <i :style="{ background: c }" />to {{ millimetres((farthest * (i + 1)) / steps.length) }}
            </span>
        </template>
        <span v-else class="step"><i :style="{ background: deviationSteps[0] }" />all as it came in</span>
    </div>
</template>

<style scoped>
.scale {
    display: flex;
    flex-direction: column;
    gap: 2px;
    padding: 6px 10px;
    border: 1px solid rgb(var(--v-theme-rule));
    border-radius: 4px;
    background: rgb(var(--v-theme-surface));
    font-size: 12px;
}
.step {
    display: flex;
    align-items: center;
    gap: 6px;
}
i {
    width: 16px;
    height: 10px;
}
</style>
