import { expect, test } from './fixtures';

test('while one rollout rests between its waves, another draft is told elsewhere; what both edit waits, and says for whom', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.turnInSsid('Skerrow Till', 'each other');
  await page.getByRole('button', { name: 'In waves' }).click();
  await page.getByRole('combobox', { name: 'Between waves, wait', exact: true }).click();
  await page.getByRole('option', { name: '1 hour', exact: true }).click();
  await desk.rollOut(/^Roll out to \d+ devices in \d waves$/);
  const first = page.locator('il-rollout-progress').filter({ hasText: 'waits before the next wave' });
  await expect(first).toBeVisible();

  await page.getByRole('button', { name: 'Start another draft' }).click();
  await desk.turnInSsid('Skerrow Crew', 'each other');
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
  await expect(held).toContainText(/at Ansel Quay\./); // it is joined to its hub there, which is told of the new segment
  await desk.stage('Lattice');
  await page.getByRole('button', { name: /^Cold store: / }).click();
  const sheet = desk.sheet('Cold store');
  await sheet.getByRole('button', { name: 'Isolation' }).click();
  await sheet.getByRole('checkbox', { name: 'Kept from other segments' }).check(); // kept apart, no other site shares it
  await desk.stage('Rollout');
  await expect(held).toBeHidden();
  await desk.rollOut(/^Roll out to \d+ devices?$/);
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
