import type { Page } from '@playwright/test';
import { expect, test, type Desk } from './fixtures';

/** Edits what six sites share, and goes to where it is rolled out. */
async function edit(desk: Desk, page: Page, box: string): Promise<void> {
  await desk.openSite('Brinmouth', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Crew' }).click();
  const sheet = desk.sheet('Skerrow Crew');
  await sheet.getByRole('checkbox', { name: box }).click();
  await sheet.getByRole('button', { name: 'Put into the draft' }).click();
  await expect(sheet.getByRole('button', { name: 'Put into the draft' })).toBeDisabled();
  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await page.getByRole('link', { name: 'Roll out…' }).click();
}
async function choose(page: Page, label: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name: label, exact: true }).click();
  await page.getByRole('option', { name: option, exact: true }).click();
}
/** Rolls out with one site first, and a long wait after it. @returns how many devices it tells. */
async function startInWaves(page: Page, site: string): Promise<number> {
  await page.getByRole('button', { name: 'In waves' }).click();
  await choose(page, 'At', site);
  await choose(page, 'Then the rest', 'all at once');
  await choose(page, 'Between waves, wait', '1 hour');
  const despite = page.getByRole('checkbox', { name: /^Roll out in spite of/ });
  const start = page.getByRole('button', { name: /^Roll out to \d+ devices in 2 waves$/ });
  await expect(start).toBeVisible();
  if (await despite.isVisible()) await despite.check();
  const devices = Number(/\d+/.exec((await start.textContent())!)![0]);
  await start.click();
  await expect(page.getByText('waits before the next wave')).toBeVisible();
  return devices;
}

test('a rollout tries one site first; the others are seen to be behind, and follow when somebody says so', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await edit(desk, page, 'each other');
  const devices = await startInWaves(page, 'Calder Skerry');
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
  await edit(desk, page, 'each other');
  const devices = await startInWaves(page, 'Petrel');
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
  const rest = await startInWaves(page, 'Guillemot');
  expect(rest).toBe(devices - 2);
  await page.setViewportSize({ width: 390, height: 844 });
  await page.getByRole('button', { name: 'Go back…' }).click();
  const back = page.getByRole('alertdialog', { name: 'Go back' });
  await expect(back).toContainText('2 devices at 1 site go back to what they ran before');
  await back.getByRole('button', { name: 'Go back, put back 2 devices' }).click();
  await expect(page.getByText('Every device runs what it ran before; the draft is open again.')).toBeVisible();
  await expect(page.getByText('5 sites behind, told too')).toBeVisible();
});
