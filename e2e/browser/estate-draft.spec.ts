import { expect, test, inOrder } from './fixtures';

inOrder();

test('an edit of what six sites share says what it means at each, and tells exactly the devices it counted', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Crew' }).click();
  const sheet = desk.sheet('Skerrow Crew');
  await sheet.getByRole('checkbox', { name: 'each other' }).check();
  await desk.putIntoDraft(sheet);
  await expect(desk.consequences.getByRole('heading', { name: '5 other sites' })).toBeVisible();
  const total = desk.consequences.locator('dl div', { hasText: 'device' }).locator('dd');
  await expect(total).toHaveText(/^\d+$/); // no more to come
  const devices = Number(await total.textContent());
  expect(devices).toBeGreaterThan(10);

  const other = desk.consequences.getByRole('group').filter({ hasText: 'Ansel Quay' });
  await other.locator('summary').click();
  await expect(other.getByText(/aq-ap-01/)).toBeVisible();

  await desk.stage('Rollout');
  const start = page.getByRole('button', { name: `Roll out to ${devices} devices` });
  await expect(start).toBeVisible();
  const ways = page.locator('il-draft-review summary b');
  await expect(ways.first()).toHaveText(`${devices} devices`); // they all hear the same
  await page.getByRole('group', { name: 'Grouped by' }).getByRole('button', { name: 'Site' }).click();
  await expect(page.locator('il-draft-review summary')).toHaveCount(6);
  await page.getByLabel('Only devices or sites with').fill('petrel');
  await expect(page.locator('il-draft-review summary')).toHaveCount(1);
  await page.getByLabel('Only devices or sites with').fill('');
  await desk.expectAccessible();

  const despite = page.getByRole('checkbox', { name: /^Roll out in spite of/ });
  if (await despite.isVisible()) await despite.check();
  await start.click();
  await expect(page.getByText(`${devices}/${devices}`)).toBeVisible();
});

test('the draft and its rollout are there over all sites too, with what is to be done at each', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  const sheet = desk.sheet('Skerrow Passengers');
  await sheet.getByRole('checkbox', { name: 'other segments' }).check();
  await desk.putIntoDraft(sheet);
  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await expect(page.getByRole('heading', { name: 'Skerrow Ferries' })).toBeVisible();
  await page.getByRole('link', { name: 'Roll out…' }).click();
  await expect(page.getByRole('heading', { name: 'Rollout', exact: true })).toBeVisible();
  await expect(desk.consequences.getByRole('heading', { name: '4 sites' })).toBeVisible();
  const start = page.getByRole('button', { name: /^Roll out to \d+ devices$/ });
  await expect(start).toBeVisible();
  await desk.expectAccessible();

  const brinmouth = desk.consequences.getByRole('group').filter({ hasText: 'Brinmouth' });
  const gap = 'Passengers stops at bm-sw-02 port 7';
  if (await brinmouth.locator('summary .bad').isVisible()) {
    await brinmouth.locator('summary').click();
    await expect(brinmouth.getByText(gap)).toBeVisible();
    await brinmouth.getByRole('button', { name: /^Mend: tag 40 on port 7/ }).click();
    await expect(brinmouth.getByText(gap)).toBeHidden();
  }
  await expect(page.getByRole('button', { name: /^Roll out to \d+ devices$/ })).toBeEnabled();
  await page.locator('body').press('Control+z'); // the mend, then the edit
  await page.locator('body').press('Control+z');
  await expect(page.getByText('The draft says nothing else than what is live, at any site.')).toBeVisible();
});
