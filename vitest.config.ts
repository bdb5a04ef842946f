import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,engine,sources,server,demo,scripts,app}/**/*.test.{ts,tsx}'],
    environment: 'node',
    // Most tests wait for a database, so two at a time suit two cores.
    maxWorkers: 2,
    globalSetup: './scripts/test-cluster.mjs',
    testTimeout: 60_000,
    hookTimeout: 120_000,
  },
});
