<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench';
import { keyList, mouseList } from '../text';

const bench = useBench();
const open = computed({ get: () => bench.dialog === 'keys', set: (on) => !on && (bench.dialog = null) });
</script>

<template>
    <v-dialog v-model="open" max-width="560" aria-label="Keys and mouse">
        <v-card class="pa-4" data-testid="keys">
            <p class="heading mb-2">Keys and mouse</p>
            <table>
                <tbody>
                    <tr v-for="[keys, what] in [...keyList, ...mouseList]" :key="keys">
                        <td>
                            <kbd>{{ keys }}</kbd>
                        </td>
                        <td class="pl-4 py-1">{{ what }}</td>
                    </tr>
                </tbody>
            </table>
            <v-btn class="mt-3 align-self-end" variant="outlined" @click="open = false">Close</v-btn>
        </v-card>
    </v-dialog>
</template>
