import { randomUUID } from 'node:crypto';
import { expect, test, inOrder } from './fixtures';

inOrder();

test('who reaches whom at another site is seen place by place, and a guarantee to there breaks by an edit there', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Petrel', 'Rules');
  await desk.press('Reach');
  await page.getByRole('combobox', { name: 'The site that is reached' }).selectOption({ label: 'Ansel Quay' });
  await page.getByRole('button', { name: 'Crew to Ticketing at Ansel Quay: everything' }).click();
  const cell = page.getByRole('region', { name: 'Crew → Ticketing at Ansel Quay' });
  await expect(cell.getByText('Everything gets through')).toBeVisible();
  await expect(cell.getByText('at Ansel Quay', { exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Passengers to Ticketing at Ansel Quay: nothing' })).toBeVisible();
  await desk.expectAccessible();

  await desk.press('Guarantees');
  await page.getByRole('combobox', { name: 'New guarantee' }).click();
  await page.getByRole('option', { name: 'Always reaches' }).click();
  await page.getByRole('combobox', { name: 'At', exact: true }).click();
  await page.getByRole('option', { name: 'Ansel Quay' }).click();
  await page.getByRole('combobox', { name: 'From' }).fill('Crew,');
  await page.getByRole('combobox', { name: 'To', exact: true }).fill('Ticketing,');
  await page.getByRole('combobox', { name: 'Services', exact: true }).fill('tcp 443;');
  await desk.press('Guarantee at this site');
  const line = page.getByRole('listitem').filter({ hasText: 'segment Ticketing at Ansel Quay on tcp 443' });
  await expect(line.getByText('holds')).toBeVisible();

  const sites: { id: string; name: string }[] = (await estate.call('GET', '/api/estate')).sites;
  const siteId = sites.find(({ name }) => name === 'Ansel Quay')!.id;
  const rule = {
    ...{ id: randomUUID(), verdict: 'deny', comment: 'No vessel', services: [{ protocol: 'any' }] },
    ...{ from: [{ kind: 'addresses', text: '10.20.0.0/16' }], to: [{ kind: 'segment', name: 'Ticketing' }] },
  };
  await estate.edit([{ type: 'rule.add', siteId, behind: null, rules: [rule] }]);
  await expect(line.getByText('broken')).toBeVisible();
  await expect(line.getByText('Stopped at Ansel Quay by “No vessel”.')).toBeVisible();
  await desk.openSite('Ansel Quay', 'Rollout');
  const against = page.getByRole('group', { name: 'Guarantees that it would break' });
  await expect(against).toContainText('Petrel: segment Crew always reaches segment Ticketing at Ansel Quay on tcp 443');
  await page.keyboard.press('Control+z');
  await expect(against).toBeHidden();
});

test('how long anybody may wait while a hub fails or a tunnel is cut is guaranteed, and what is longer is said', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Petrel', 'Rules');
  await desk.press('Guarantees');
  const ask = async (seconds: string): Promise<void> => {
    await page.getByRole('combobox', { name: 'New guarantee' }).click();
    await page.getByRole('option', { name: 'Always reaches' }).click();
    await page.getByRole('combobox', { name: 'At', exact: true }).click();
    await page.getByRole('option', { name: 'Calder Skerry' }).click();
    await page.getByRole('combobox', { name: 'Even when' }).click();
    await page.getByRole('option', { name: 'any one hub fails' }).click();
    await page.getByLabel('Waits at most, s').fill(seconds);
    await page.getByRole('combobox', { name: 'From' }).fill('Crew,');
    await page.getByRole('combobox', { name: 'To', exact: true }).fill('Crew,');
    await page.getByRole('combobox', { name: 'Services', exact: true }).fill('tcp 443;');
    await desk.press('Guarantee at this site');
  };
  await ask('8');
  const line = (seconds: number) =>
    page
      .getByRole('listitem')
      .filter({ hasText: `though any hub fails or a tunnel is cut, after ${seconds} s at the most` });
  await expect(line(8).getByText('holds')).toBeVisible();
  await ask('2');
  await expect(line(2).getByText('broken')).toBeVisible();
  await expect(line(2).getByText(/When .* (fails|is cut), nothing gets there and back for 6 s/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(line(2)).toBeHidden();
});

test('a walk goes on board and ends at another site, judged by both gateways', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Petrel', 'Bench');
  await page.getByLabel('To', { exact: true }).first().fill('10.10.20');
  await expect(page.getByText('“10.10.20” is no IPv4 address, such as 10.20.5.7.')).toBeVisible();
  await page.getByLabel('To', { exact: true }).first().fill('10.10.20.7');
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  const walk = page.getByRole('region', { name: 'Walk on the draft' });
  await expect(walk.getByText('Arrived: nothing stops it on its way to 10.10.20.7')).toBeVisible();
  await expect(walk.getByText('Into the tunnel to Ansel Quay')).toBeVisible();
  await expect(walk.getByText('It comes to Ansel Quay.')).toBeVisible();
});

test('a route is said once for many sites: where it lacks something is seen first, and it is there while somebody answers', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.overall('Paths');
  await desk.press('Routes');
  await desk.press('Add a route');
  const fresh = desk.sheet('New route');
  await fresh.getByLabel('Called').fill('Harbour works');
  await fresh.getByLabel('What is for').fill('172.20.0.0/16');
  await fresh.getByRole('combobox', { name: 'In the segment' }).click();
  await page.getByRole('option', { name: /^Ticketing/ }).click();
  await fresh.getByLabel('Its address number').fill('5');
  await fresh.getByLabel('There while this answers').fill('10.1.1.1');
  await fresh.getByRole('button', { name: 'Add the route' }).click();
  await expect(fresh.getByText(/^10\.1\.1\.1 is not reached by this route/)).toBeVisible();
  await fresh.getByLabel('There while this answers').fill('itself');
  await fresh.getByRole('button', { name: 'Add the route' }).click();
  await expect(desk.sheet('Harbour works')).toBeVisible();
  await expect(
    page.getByRole('row', { name: /^Harbour works 172\.20\.0\.0\/16 .* its segment at 4 sites/ }),
  ).toBeVisible();
  await desk.expectAccessible();
  await page.getByRole('navigation', { name: 'Estate' }).getByRole('link', { name: 'Rollout' }).click();
  await desk.rollOutAll(/^Roll out to 2 devices/);
  await desk.openSite('Ansel Quay', 'Paths');
  const routes = page.getByRole('list', { name: /^Routes of aq-gw-01/ });
  await expect(
    routes.getByRole('button', { name: /^Harbour works 172\.20\.0\.0\/16 to 10\.10\.20\.5 of all sites/ }),
  ).toBeVisible();
  // Nobody is there: the route goes, and what is for it leaves as the rest does.
  await expect(routes.getByText('not there: what it tracks does not answer')).toBeVisible({ timeout: 30_000 });
  await page.getByLabel('Look up an address').fill('172.20.1.1');
  await expect(page.getByText(/^172\.20\.1\.1 goes by /)).toBeVisible();
  await expect(page.getByText(/the route Harbour works is gone\. What it tracks does not answer/)).toBeVisible();
  await routes.getByRole('button', { name: /^Harbour works/ }).click();
  await expect(desk.sheet('Harbour works')).toBeVisible();
});
