import { defineConfig } from '@playwright/test';

/** Browser tests with the distribution's Chromium, each file on an estate of its own. */
export default defineConfig({
  testDir: './browser',
  workers: 2,
  retries: 1, // two browsers and an estate on two busy cores: what passes at a second try is told by the whole run
  timeout: 600_000, // a bound for what hangs, not a speed target: machines differ
  expect: { timeout: 120_000 }, // the same: two browsers and an estate share two cores, of which others may have the better part
  reporter: process.env['LATTICE_SUMMARY']
    ? [['line'], ['json', { outputFile: process.env['LATTICE_SUMMARY'] }]]
    : 'list',
  use: {
    actionTimeout: 120_000, // a button that stays disabled is said to be
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium', args: ['--disable-dev-shm-usage'] },
    contextOptions: { reducedMotion: 'reduce' },
    screenshot: 'only-on-failure',
  },
});
