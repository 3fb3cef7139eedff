import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vitest/config';

export default defineConfig({
    test: {
        projects: [
            {
                plugins: [vue()],
                test: {
                    name: 'unit',
                    include: ['tests/*.test.ts', 'tests/stores/*.test.ts'],
                    setupFiles: ['tests/setup.ts'],
                },
            },
            { test: { name: 'readers', include: ['tests/readers/*.test.ts'] } },
        ],
    },
});
