<script setup lang="ts">
// Split points of a rim, the runs between them, how they are covered.
import StepFields from '../../fields/StepFields.vue';
import RunFields from '../RunFields.vue';
</script>

<template>
    <RunFields />
    <StepFields picked :but="['at', 'runs']" />
</template>
