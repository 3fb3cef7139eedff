<script setup lang="ts">
import BodyFields from '../../../board/BodyFields.vue';
import StepFields from '../../fields/StepFields.vue';
</script>

<template>
    <BodyFields />
    <StepFields :but="['profile', 'regions']" />
</template>
