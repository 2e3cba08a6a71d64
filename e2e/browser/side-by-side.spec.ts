import type { Page } from '@playwright/test';
import { expect, test, type Desk } from './fixtures';

/** Edits an SSID of several sites, and goes to where it is rolled out. */
async function edit(desk: Desk, page: Page, ssid: string): Promise<void> {
  await desk.openSite('Brinmouth', 'Wireless');
  await page.getByRole('button', { name: ssid }).click();
  const sheet = desk.sheet(ssid);
  await sheet.getByRole('checkbox', { name: 'each other' }).click();
  await sheet.getByRole('button', { name: 'Put into the draft' }).click();
  await expect(sheet.getByRole('button', { name: 'Put into the draft' })).toBeDisabled();
  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await page.getByRole('link', { name: /^Roll(ing)? out…$/ }).click();
}
async function begin(page: Page, label: RegExp): Promise<void> {
  const start = page.getByRole('button', { name: label });
  await expect(start).toBeVisible();
  const despite = page.getByRole('checkbox', { name: /^Roll out in spite of/ });
  if (await despite.isVisible()) await despite.check();
  await start.click();
}

test('while one rollout rests between its waves, another draft is told elsewhere; what both edit waits, and says for whom', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await edit(desk, page, 'Skerrow Till');
  await page.getByRole('button', { name: 'In waves' }).click();
  await page.getByRole('combobox', { name: 'Between waves, wait', exact: true }).click();
  await page.getByRole('option', { name: '1 hour', exact: true }).click();
  await begin(page, /^Roll out to \d+ devices in \d waves$/);
  const first = page.locator('il-rollout-progress').filter({ hasText: 'waits before the next wave' });
  await expect(first).toBeVisible();

  await page.getByRole('button', { name: 'Start another draft' }).click();
  await edit(desk, page, 'Skerrow Crew');
  const held = page.getByRole('group', { name: 'Rolled out there now' });
  await expect(held).toContainText(/at Ansel Quay, Brinmouth\./);
  await expect(page.getByRole('button', { name: /^Roll out to \d+ devices$/ })).toBeDisabled();
  await desk.expectAccessible();
  await page.keyboard.press('Control+z');
  await expect(held).toBeHidden();

  await desk.openSite('Brinmouth', 'Wireless');
  await expect(desk.consequences.getByText(/is being rolled out at this site and brings it up to date/)).toBeVisible();
  await desk.openSite('Petrel');
  await desk.addSegment('Cold store', 77);
  await desk.stage('Rollout');
  await begin(page, /^Roll out to \d+ devices?$/);
  const revision = page.getByText('Revision 2 is live');
  await expect(revision).toBeVisible();
  await expect(first).toBeVisible(); // it rests on
  await first.getByRole('button', { name: 'Pause' }).click();
  await page.getByRole('button', { name: 'Go on with the next wave' }).click();
  await expect(page.locator('il-rollout-progress').filter({ hasText: 'waits before' })).toBeHidden();
  await expect(page.getByText('Nothing to send.')).toBeVisible();
  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await expect(page.getByRole('button', { name: /^Behind/ })).toBeHidden();
});
