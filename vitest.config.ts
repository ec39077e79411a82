import { defineConfig } from 'vitest/config';

// Our own packages are read from their sources; packages from outside as Node would.
export default defineConfig({
  resolve: { conditions: ['source'] },
  ssr: { resolve: { conditions: ['source'], externalConditions: ['node'] } },
  test: {
    // Vitest leaves a core to its watcher, which does nothing here.
    maxWorkers: 2,
    // What hangs is found; what is slow beside busy others passes.
    testTimeout: 300_000,
    hookTimeout: 300_000,
    projects: [
      {
        extends: true,
        test: {
          name: 'unit',
          include: ['{core,contract,files,cli,demo,web}/test/**/*.test.ts'],
          // Files share what they import: loading it anew for each took as long as a quarter of the tests.
          isolate: false,
        },
      },
      {
        extends: true,
        // What is written for bundlers is taken as a bundler takes it.
        resolve: { alias: [{ find: /^antd$/, replacement: 'antd/es/index.js' }] },
        test: {
          name: 'components',
          include: ['web/test/components/**/*.test.tsx'],
          environment: 'happy-dom',
          // Each file by itself loads all of the interface's parts anew, ten seconds long.
          isolate: false,
          server: { deps: { inline: [/antd/, /@ant-design/, /@rc-component/] } },
        },
      },
      {
        extends: true,
        test: {
          name: 'server',
          include: ['server/test/**/*.test.ts', 'e2e/told.test.ts'],
          isolate: false,
        },
      },
      {
        extends: true,
        test: {
          name: 'journeys',
          include: ['e2e/**/*.test.ts'],
          // It has no browser, so it runs beside others.
          exclude: ['e2e/told.test.ts'],
          fileParallelism: false,
        },
      },
    ],
  },
});
