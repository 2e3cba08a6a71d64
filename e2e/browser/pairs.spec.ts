import { expect, test, inOrder } from './fixtures';

inOrder();

const [FIRST, SPARE] = ['3A1-0107-51', '3A1-0163-59'];

test('a second gateway becomes one of a pair; what is wrong with it is said, and both take turns once it is rolled out', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  const site = await estate.site('Ansel Quay');
  await estate.tell({ do: 'power', serial: SPARE, on: true });
  await desk.openSite('Ansel Quay');
  await expect(page.getByText(SPARE)).toBeVisible({ timeout: 60_000 });
  await estate.call('POST', `/api/sites/${site.id}/claims`, { serials: [SPARE] });
  await expect(page.getByRole('row', { name: /in step aq-gw-02/ })).toBeVisible({ timeout: 60_000 });

  await desk.stage('Paths');
  await expect(page.getByText('aq-gw-01 routes alone, and aq-gw-02 holds no address of a segment')).toBeVisible();
  await desk.press('Make a pair of them');
  const sheet = desk.sheet('Pair of gateways');
  await expect(sheet.getByText(/Whoever routes has the gateway addresses of \d+ segments/)).toBeVisible();
  await expect(sheet.getByText(/the other routes after 2\.4 to 3\.4 s/)).toBeVisible();
  await sheet.getByLabel('A sign of life every, s').fill('60');
  await sheet.getByLabel('A sign of life every, s').blur();
  await expect(sheet.getByText('They tell each other every 0.1 to 10 seconds that they are there.')).toBeVisible();
  await sheet.getByLabel('A sign of life every, s').fill('0.5');
  await sheet.getByLabel('A sign of life every, s').blur();
  await expect(sheet.getByText(/the other routes after 1\.2 to 1\.7 s/)).toBeVisible();
  for (const [name, what] of [
    ['aq-gw-01', 'battery A'],
    ['aq-gw-02', 'battery A'],
  ] as const) {
    await sheet.getByLabel(`${name} is fed by`).fill(what);
    await sheet.getByLabel(`${name} is fed by`).blur();
  }
  await desk.expectAccessible();
  await page.keyboard.press('Escape');
  await expect(desk.consequences.getByText('aq-gw-01 and aq-gw-02 are fed by one and the same')).toBeVisible();

  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Rehearsal' }).click();
  const view = page.locator('il-rehearsal-view').first();
  await view.getByRole('combobox', { name: 'What happens' }).click();
  await page.getByRole('option', { name: 'the gateway has no power' }).click();
  await expect(view.getByText(/aq-gw-02 routes from 31 s on, aq-gw-01 routes from/)).toBeVisible();

  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await page.getByRole('link', { name: /^Roll(ing)? out…$/ }).click();
  await desk.rollOutAll(/^Roll out to 2 devices/);
  await desk.openSite('Ansel Quay', 'Paths');
  await expect(page.getByText(/routes since/)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/stands by since/)).toBeVisible({ timeout: 60_000 });
});

test('the one that stands by takes over when the other loses its power, and gives back', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Paths');
  const second = page.locator('il-pair-strip li').nth(1);
  await expect(second).toContainText('stands by since');
  await estate.tell({ do: 'power', serial: FIRST, on: false });
  await expect(second).toContainText('routes since', { timeout: 40_000 });
  await expect(page.getByText(/aq-gw-02: it routes now\. Nothing was heard of the other/)).toBeVisible();
  // Whoever is behind it is served as before: APs still speak with the controller.
  await desk.stage('Intake');
  await expect(page.getByRole('row', { name: /in step aq-ap-01/ })).toBeVisible({ timeout: 60_000 });
  await estate.tell({ do: 'power', serial: FIRST, on: true });
  await desk.stage('Paths');
  await expect(second).toContainText('stands by since', { timeout: 60_000 });
});
