import { expect, test, inOrder } from './fixtures';

inOrder();

test('joined sites are seen with their tunnels, and the way between two of them is drawn', async ({ desk, page }) => {
  await desk.signIn();
  await page.getByRole('link', { name: 'Joined' }).click();
  await expect(page.getByRole('heading', { name: 'Joined sites' })).toBeVisible();
  await expect(
    page.getByRole('row', { name: /^Petrel spoke all 2 up \d+ ms Ansel Quay, then Dunmere Depot/ }),
  ).toBeVisible();
  await desk.expectAccessible();
  // On a phone the table has its rows too.
  const desktop = page.viewportSize()!;
  await page.setViewportSize({ width: 390, height: 844 });
  const row = page.getByRole('row', { name: /^Petrel/ });
  await expect(row).toBeVisible();
  expect((await row.boundingBox())!.height).toBeGreaterThan(20);
  await page.setViewportSize(desktop);
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Map' }).click();
  await page.getByRole('combobox', { name: 'From' }).click();
  await page.getByRole('option', { name: 'Petrel' }).click();
  await page.getByRole('combobox', { name: 'To', exact: true }).click();
  await page.getByRole('option', { name: 'Calder Skerry' }).click();
  await expect(page.getByText(/^Petrel → Ansel Quay → Calder Skerry, \d+ ms there and back/)).toBeVisible();
  await expect(page.getByText('Answers come back the same way.')).toBeVisible();
  // Passengers are kept from all other segments, those of other sites included.
  await page.getByRole('combobox', { name: 'Network' }).first().click();
  await page.getByRole('option', { name: /^Passengers/ }).click();
  await expect(page.getByText('Petrel does not share 10.20.40.0/22: nothing from there is taken in.')).toBeVisible();
  await page.getByRole('button', { name: /^Guillemot, spoke/ }).press('Enter');
  await expect(desk.sheet('Guillemot')).toContainText('Spoke of Ansel Quay, then Dunmere Depot; ends at gm-gw-01');
  await desk.expectAccessible();
});

test('a site is taken out and joined again, with a key of its own; who else is told is seen first, and its tunnels come up', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await page.getByRole('link', { name: 'Joined' }).click();
  await page.getByRole('gridcell', { name: 'Guillemot' }).click();
  await desk.sheet('Guillemot').getByRole('button', { name: 'Take out' }).click();
  await expect(page.getByRole('row', { name: /^Guillemot/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Join a site' }).click();
  const sheet = desk.sheet('Join a site');
  await sheet.getByRole('combobox', { name: 'Site', exact: true }).click();
  await page.getByRole('option', { name: 'Guillemot' }).click();
  await expect(sheet.getByRole('combobox', { name: 'By the hub' })).toContainText('Ansel Quay');
  await sheet.getByLabel('And these networks behind it').fill('10.10.0.0/16');
  await sheet.getByRole('button', { name: 'Join the site' }).click();
  await expect(sheet.getByText(/is shared by Ansel Quay already: others could not tell the two apart/)).toBeVisible();
  await sheet.getByLabel('And these networks behind it').fill('');
  await sheet.getByRole('button', { name: 'Join the site' }).click();
  await expect(desk.sheet('Guillemot')).toBeVisible();
  await expect(page.getByRole('row', { name: /^Guillemot spoke/ })).toBeVisible();
  // It has another key: its hubs are told of it too.
  for (const name of ['Ansel Quay', 'Dunmere Depot', 'Guillemot'])
    await expect(desk.consequences.getByText(name, { exact: true })).toBeVisible();
  await page.getByRole('navigation', { name: 'Estate' }).getByRole('link', { name: 'Rollout' }).click();
  await desk.rollOutAll(/^Roll out to 3 devices/);
  await page.getByRole('navigation', { name: 'Estate' }).getByRole('link', { name: 'Joined' }).click();
  await expect(page.getByRole('row', { name: /^Guillemot spoke all 2 up/ })).toBeVisible({ timeout: 30_000 });
});

test('a hub that fails is seen, and the way goes by the other; who asks is told what both gateways do', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Petrel', 'Rules');
  await page
    .getByRole('combobox', { name: 'Ask who reaches whom' })
    .fill('Can Crew reach Crew at Calder Skerry on tcp 443?');
  await page.keyboard.press('Enter');
  const answer = page.getByRole('region', { name: 'Answer' });
  await expect(answer.getByText('Yes, all of it.')).toBeVisible();
  await expect(answer.getByText('By Ansel Quay it comes to Calder Skerry.')).toBeVisible();
  await expect(answer.getByText('cs-gw-01, Calder Skerry: Passed')).toBeVisible();
  await desk.openSite('Petrel', 'Paths');
  await expect(page.getByText(/^What is for others goes by its hubs\. It shares 10\.20\.1\.0\/24/)).toBeVisible();
  await page.getByLabel('Look up an address').fill('10.15.10.7');
  await expect(
    page.getByText('10.15.10.7 goes into the tunnel to Ansel Quay (joined sites: sites by Ansel Quay).'),
  ).toBeVisible();
  // From a segment that others do not reach nothing goes there.
  await page.getByRole('combobox', { name: 'From' }).click();
  await page.getByRole('option', { name: 'Passengers' }).click();
  await expect(page.getByText(/From Passengers it goes nowhere: other sites do not reach Passengers/)).toBeVisible();
  await page.getByRole('combobox', { name: 'From' }).click();
  await page.getByRole('option', { name: 'Crew', exact: true }).click();
  await expect(page.getByText(/From Crew the same\./)).toBeVisible();
  await page.getByRole('combobox', { name: 'From' }).click();
  await page.getByRole('option', { name: 'anybody' }).click();
  await estate.tell({ do: 'power', serial: '3A1-0107-51', on: false });
  await expect(
    page.getByText('10.15.10.7 goes into the tunnel to Dunmere Depot (joined sites: sites by Dunmere Depot).'),
  ).toBeVisible({
    timeout: 40_000,
  });
  await estate.tell({ do: 'power', serial: '3A1-0107-51', on: true });
  await expect(
    page.getByText('10.15.10.7 goes into the tunnel to Ansel Quay (joined sites: sites by Ansel Quay).'),
  ).toBeVisible({
    timeout: 60_000,
  });
});

test('what becomes of two sites when their hub fails is rehearsed before it does', async ({ desk, page }) => {
  await desk.signIn();
  await page.getByRole('navigation', { name: 'Estate' }).getByRole('link', { name: 'Joined' }).click();
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Rehearsal' }).click();
  await expect(page.getByText('Choose two sites, and say which hub or tunnel fails when')).toBeVisible();
  for (const [label, option] of [
    ['From', 'Petrel'],
    ['To', 'Guillemot'],
    ['What happens', 'Ansel Quay is gone'],
  ] as const) {
    await page.getByRole('combobox', { name: label, exact: true }).click();
    await page.getByRole('option', { name: option, exact: true }).click();
  }
  await expect(page.getByText(/Nothing gets there for .* at a stretch \(at worst 6(\.0)? s\)/)).toBeVisible();
  await expect(page.getByText('Petrel → Dunmere Depot → Guillemot').first()).toBeVisible();
  await page.getByLabel('To, s').fill('5');
  await expect(page.getByText(/It ends after it began/)).toBeVisible();
  await desk.expectAccessible();
});
