import { defineConfig } from 'vitest/config';

export default defineConfig({
    test: {
        projects: [
            {
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
