import { defineConfig } from 'vitest/config';

/** Unit tests of core and fleet, API tests on a real PostgreSQL, and tests of the processes together. */
export default defineConfig({
  test: {
    globalSetup: ['./tools/vitest-postgres.mjs'],
    maxWorkers: 2,
    projects: [
      { extends: true, test: { name: 'core', include: ['core/**/*.spec.ts'], testTimeout: 60_000 } },
      { extends: true, test: { name: 'fleet', include: ['fleet/**/*.spec.ts'], testTimeout: 60_000 } },
      {
        extends: true,
        test: { name: 'server', include: ['server/**/*.spec.ts'], testTimeout: 60_000, hookTimeout: 120_000 },
      },
      {
        extends: true,
        test: { name: 'system', include: ['e2e/system/**/*.spec.ts'], testTimeout: 180_000, hookTimeout: 180_000 },
      },
    ],
  },
});
