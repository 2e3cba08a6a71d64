import { expect, test, inOrder } from './fixtures';

inOrder();

const BOXES = ['3A1-0149-57', '5C2-0135-55', '7K4-0156-58'];

test('a branch is made from a name and what its boxes are; they come later, take themselves in, and its tunnels come up', async ({
  desk,
  page,
  estate,
}) => {
  for (const serial of BOXES) await estate.tell({ do: 'power', serial, on: false });
  await desk.signIn();
  await desk.press('Branches');
  const sheet = desk.sheet('Branches in one go');
  await expect(sheet.getByText('A name and the serial number of its gateway are enough.')).toBeVisible();
  await sheet.getByLabel('Name', { exact: true }).fill('Harrow Point');
  await sheet.getByLabel('Serial number of its gateway').fill('3A1-0149-57');
  await sheet.getByRole('combobox', { name: 'Model' }).click();
  await page.getByRole('option', { name: 'GW-4', exact: true }).click();
  await sheet.getByLabel('Uplinks').fill('dhcp fast');
  await expect(sheet.getByText(/“fast” is not understood/).first()).toBeVisible();
  await expect(sheet.getByRole('button', { name: 'Make them' })).toBeDisabled();
  await sheet.getByLabel('Uplinks').fill('dhcp 100/20');
  await sheet.getByLabel('More devices').fill('SW-24P 5C2-0135-55; AP-6E 7K4-0156-58');
  await sheet.getByLabel('Tags').fill('terminal');
  // What cannot be derived was typed; what can is shown with what it follows from, and who else is told.
  const seen = sheet.getByRole('region', { name: 'What will be there' });
  await expect(
    seen.getByText('At once: the site is there, 3 boxes are expected, each taken in when it calls.'),
  ).toBeVisible();
  await expect(seen.getByText(/Rolled out, that tells 2 devices at Ansel Quay, Dunmere Depot\./)).toBeVisible();
  await expect(seen.getByText('Europe/Dublin from the country')).toBeVisible();
  await expect(seen.getByText(/by Ansel Quay, then Dunmere Depot/)).toBeVisible();
  await expect(seen.getByText(/GW-4 3A1-0149-57, gateway, expected/)).toBeVisible();
  await desk.expectAccessible();
  expect((await estate.call('GET', '/api/estate')).sites.map(({ name }: { name: string }) => name)).not.toContain(
    'Harrow Point',
  );
  await sheet.getByRole('button', { name: 'Make 1 branch' }).click();
  await expect(page.getByRole('row', { name: /^Harrow Point/ })).toBeVisible();
  // What is said of a box that is not there waits for it.
  await desk.openSite('Harrow Point', 'Paths');
  await expect(page.getByText('expected: told when it calls')).toBeVisible();
  await page.getByRole('button', { name: /^hp-gw-01 wan1/ }).click();
  await desk.sheet('hp-gw-01 wan1').getByLabel('Called', { exact: true }).fill('Harbour line');
  await page.keyboard.press('Tab');
  await expect(page.getByText('Harbour line').first()).toBeVisible();
  await desk.overall('Rollout');
  await desk.rollOutAll(/^Roll out to 2 devices/);
  for (const serial of BOXES) await estate.tell({ do: 'power', serial, on: true });
  await desk.openSite('Harrow Point');
  for (const name of [/\S+-gw-01/, /\S+-sw-01/, /\S+-ap-01/])
    await expect(page.getByRole('row', { name: new RegExp(`in step ${name.source}`) })).toBeVisible({
      timeout: 60_000,
    });
  await desk.stage('Paths');
  await expect(page.getByText('Harbour line').first()).toBeVisible();
  await expect(page.getByText('expected: told when it calls')).toHaveCount(0);
  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await page.getByRole('navigation', { name: 'Estate' }).getByRole('link', { name: 'Joined' }).click();
  await expect(page.getByRole('row', { name: /^Harrow Point spoke all 2 up/ })).toBeVisible({ timeout: 60_000 });
});

test('a list says of each row what is wrong with it; the good ones are made', async ({ desk, page }) => {
  await desk.signIn();
  await page.getByRole('navigation', { name: 'Estate' }).getByRole('link', { name: 'Sites' }).click();
  await desk.press('Branches');
  const sheet = desk.sheet('Branches in one go');
  await sheet.getByRole('button', { name: 'A list', exact: true }).click();
  await sheet
    .getByLabel('Typed or pasted, a branch on each line')
    .fill(
      [
        'name,gateway,model,uplinks,time zone',
        'Saltmarsh Pier,3A1-0202-10,GW-4,static 203.0.113.10/29 via 203.0.113.9,',
        'Tern Rock,3A1-0203-09,SW-24P,,',
        'harrow point,3A1-0204-08,GW-4,,',
        'Gull Stairs,3A1-0205-07,GW-4,pppoe gull@line sea-pink-5,',
      ].join('\n'),
    );
  await sheet.getByRole('button', { name: 'Look at it' }).click();
  const seen = sheet.getByRole('region', { name: 'What will be there' });
  await expect(seen.getByText('SW-24P is no gateway.')).toBeVisible();
  await expect(seen.getByText('There is already a site “harrow point”.')).toBeVisible();
  await seen.getByText('Gull Stairs').click();
  await expect(seen.getByText('PPPoE, as gull@line')).toBeVisible();
  await expect(seen.getByText('sea-pink-5')).toHaveCount(0);
  await sheet.getByRole('button', { name: 'Make the 2 good, leave out 2' }).click();
  await expect(page.getByRole('row', { name: /^Gull Stairs/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Saltmarsh Pier/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Tern Rock/ })).toHaveCount(0);
  // One that was a mistake goes again, with its box and its edits.
  await page.getByRole('gridcell', { name: 'Gull Stairs' }).click();
  await desk.sheet('Gull Stairs').getByRole('button', { name: 'Take this site away…' }).click();
  await expect(
    desk.sheet('Gull Stairs').getByText(/^Gull Stairs goes, and with it 1 box that is expected and \d edits of Draft/),
  ).toBeVisible();
  await desk.sheet('Gull Stairs').getByRole('button', { name: 'Take it away' }).click();
  await expect(page.getByRole('row', { name: /^Gull Stairs/ })).toHaveCount(0);
  await expect(page.getByRole('row', { name: /^Saltmarsh Pier/ })).toBeVisible();
});
