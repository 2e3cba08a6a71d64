import type { Page } from '@playwright/test';
import { expect, test, type Desk, inOrder } from './fixtures';

inOrder();

/** Rolls out with one site first, and a long wait after it. @returns how many devices it tells. */
async function startInWaves(desk: Desk, page: Page, site: string): Promise<number> {
  await page.getByRole('button', { name: 'In waves' }).click();
  await desk.choose('At', site);
  await desk.choose('Then the rest', 'all at once');
  await desk.choose('Between waves, wait', '1 hour');
  const devices = await desk.rollOut(/^Roll out to \d+ devices in 2 waves$/);
  await expect(page.getByText('waits before the next wave')).toBeVisible();
  return devices;
}

test('a rollout tries one site first; the others are seen to be behind, and follow when somebody says so', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.turnInSsid('Skerrow Crew', 'each other');
  const devices = await startInWaves(desk, page, 'Calder Skerry');
  const waves = page.getByRole('list', { name: 'Waves' });
  await expect(waves.getByRole('listitem').first()).toContainText('Canary: Calder Skerry 2 devices at 1 site');
  await expect(waves.getByRole('listitem').first()).toContainText('through');
  await desk.expectAccessible();

  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await expect(page.getByRole('button', { name: 'Behind 5' })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Calder Skerry.* revision \d/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Petrel .*behind/ })).toBeVisible();

  await page.getByRole('link', { name: 'Rolling out…' }).click();
  await page.getByRole('button', { name: 'Pause' }).click();
  await page.getByRole('button', { name: 'Go on with the next wave' }).click();
  await expect(page.getByText(`${devices}/${devices}`).first()).toBeVisible();
  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await expect(page.getByRole('button', { name: /^Behind/ })).toBeHidden();
});

test('a rollout is watched, stopped and gone back with on a phone; each says first what it does', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.turnInSsid('Skerrow Crew', 'each other');
  const devices = await startInWaves(desk, page, 'Petrel');
  await page.setViewportSize({ width: 390, height: 844 });
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await desk.expectAccessible();
  await page.getByRole('button', { name: 'Stop here…' }).click();
  const told = page.getByRole('alertdialog', { name: 'Stop here' });
  await expect(told).toContainText(`2 devices at 1 site stay as they were told, ${devices - 2} devices at 5 sites`);
  await told.getByRole('button', { name: 'Stop here' }).click();
  await expect(page.getByText('5 sites behind, told too')).toBeVisible();

  // What was left over goes out with the next one, which is gone back with.
  await page.setViewportSize({ width: 1280, height: 800 });
  const rest = await startInWaves(desk, page, 'Guillemot');
  expect(rest).toBe(devices - 2);
  await page.setViewportSize({ width: 390, height: 844 });
  await page.getByRole('button', { name: 'Go back…' }).click();
  const back = page.getByRole('alertdialog', { name: 'Go back' });
  await expect(back).toContainText('2 devices at 1 site go back to what they ran before');
  await back.getByRole('button', { name: 'Go back, put back 2 devices' }).click();
  await expect(page.getByText('Every device runs what it ran before; the draft is open again.')).toBeVisible();
  await expect(page.getByText('5 sites behind, told too')).toBeVisible();
});
