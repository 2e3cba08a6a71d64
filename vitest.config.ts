import { defineConfig } from 'vitest/config';

/** Unit tests of core and fleet, API tests on a real PostgreSQL, and tests of the processes together. */
export default defineConfig({
  test: {
    // Files of a worker share its modules: what a file leaves in them is its own fault, and loading takes longer than most tests.
    globalSetup: ['./tools/vitest-postgres.mjs'],
    maxWorkers: 2,
    projects: [
      { extends: true, test: { name: 'core', isolate: false, include: ['core/**/*.spec.ts'], testTimeout: 60_000 } },
      { extends: true, test: { name: 'fleet', isolate: false, include: ['fleet/**/*.spec.ts'], testTimeout: 60_000 } },
      {
        extends: true,
        test: {
          name: 'server',
          isolate: false,
          include: ['server/**/*.spec.ts'],
          testTimeout: 60_000,
          hookTimeout: 120_000,
        },
      },
      {
        extends: true,
        test: { name: 'system', include: ['e2e/system/**/*.spec.ts'], testTimeout: 180_000, hookTimeout: 180_000 },
      },
    ],
  },
});
