import { defineConfig } from 'vitest/config';

const resolve = { conditions: ['source', 'import', 'module', 'node', 'default'] };

export default defineConfig({
  resolve,
  ssr: { resolve: { conditions: resolve.conditions, externalConditions: resolve.conditions } },
  test: {
    projects: [
      {
        extends: true,
        test: {
          name: 'unit',
          include: ['{core,contract,files,cli,demo,web}/test/**/*.test.ts'],
          testTimeout: 20_000,
        },
      },
      {
        extends: true,
        test: { name: 'server', include: ['server/test/**/*.test.ts'], testTimeout: 60_000 },
      },
      {
        extends: true,
        test: {
          name: 'journeys',
          include: ['e2e/**/*.test.ts'],
          testTimeout: 180_000,
          hookTimeout: 120_000,
          fileParallelism: false,
        },
      },
    ],
  },
});
