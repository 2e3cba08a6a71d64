import { defineConfig } from '@playwright/test';

/** Browser tests with the distribution's Chromium, each file on an estate of its own. */
export default defineConfig({
  testDir: './browser',
  workers: 2,
  timeout: 360_000, // a bound for what hangs, not a speed target: machines differ
  expect: { timeout: 60_000 }, // the same: two browsers and an estate share two cores
  reporter: process.env['LATTICE_SUMMARY']
    ? [['line'], ['json', { outputFile: process.env['LATTICE_SUMMARY'] }]]
    : 'list',
  use: {
    actionTimeout: 60_000, // a button that stays disabled is said to be
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium', args: ['--disable-dev-shm-usage'] },
    contextOptions: { reducedMotion: 'reduce' },
    screenshot: 'only-on-failure',
  },
});
