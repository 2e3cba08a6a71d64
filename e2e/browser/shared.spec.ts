import { expect, test, inOrder } from './fixtures';

inOrder();

test('what sites share is edited without standing in one, mended at all of them, and rolled out', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.overall('Wireless');
  await page.getByRole('gridcell', { name: 'Skerrow Till' }).click();
  const sheet = desk.sheet('Skerrow Till');
  await expect(sheet.getByText('An edit applies to all 2 sites it reaches.')).toBeVisible();
  await sheet.getByRole('combobox', { name: 'Segment its clients join' }).click();
  await page.getByRole('option', { name: /^Cameras · VLAN 50 at \d sites$/ }).click();
  await sheet.getByLabel('What it is for').fill('Payment at the kiosk');
  await desk.putIntoDraft(sheet);
  await expect(sheet.getByRole('row', { name: /Brinmouth – Cameras 50 10\.12\.50\.0\/25/ })).toBeVisible();

  // Two sites have gaps now; each mend is shown before any is made.
  await expect(desk.consequences.getByRole('heading', { name: '2 sites' })).toBeVisible();
  await desk.consequences.getByRole('button', { name: 'Mend all at 2 sites…' }).click();
  const mends = page.getByRole('region', { name: 'Mend everywhere' });
  await expect(mends.getByText(/\d+ findings at 2 sites have one right answer; \d+ would be left/)).toBeVisible();
  await desk.expectAccessible();
  await mends.getByRole('button', { name: /^Put \d+ edits into the draft$/ }).click();
  await expect(mends).toBeHidden();
  await expect(desk.consequences.getByRole('button', { name: /^Mend all/ })).toBeHidden();

  await page.getByRole('link', { name: 'Roll out…' }).click();
  await desk.rollOut(/^Roll out to \d+ devices$/);
  await expect(page.getByText(/^\s*(\d+)\/\1\s*$/)).toBeVisible(); // all of them were told
  await expect(page.getByText('Nothing to send.')).toBeVisible(); // and it is live

  // It is found by what it is for, and leads to where all sites share it.
  await page.getByLabel('Find anything, or do something').fill('kiosk');
  await page.getByRole('option', { name: /Skerrow Till SSID: Payment at the kiosk/ }).click();
  await expect(desk.sheet('Skerrow Till')).toBeVisible();
  await expect(page).toHaveURL(/\/wireless\?show=/);
});

test('rules, sets, guarantees and classes of all sites say where each lacks what it names', async ({ desk, page }) => {
  await desk.signIn();
  await desk.overall('Rules');
  await desk.press('Add rule');
  const rule = desk.sheet('New rule');
  await rule.getByRole('combobox', { name: 'From' }).fill('Berth sensors,');
  await rule.getByRole('combobox', { name: 'To' }).fill('Voice,');
  await rule.getByLabel('What it is for').fill('Sensors do not talk');
  await rule.getByRole('button', { name: 'Add the rule' }).click();
  const added = desk.sheet('Sensors do not talk');
  await expect(added.getByRole('row', { name: /Petrel segment Berth sensors/ })).toBeVisible();
  await expect(added.getByRole('row', { name: /Brinmouth –/ })).toBeVisible();
  await desk.expectAccessible();

  await desk.press('Guarantees');
  const list = page.getByRole('list', { name: 'Guarantees' });
  await expect(list.getByText('sites with the tag terminal, 2 sites now')).toBeVisible();
  await expect(list.getByText('holds').first()).toBeVisible(); // every site was looked at

  await desk.overall('Entry');
  await desk.press('Add access class');
  const sheet = desk.sheet('New access class');
  await sheet.getByLabel('Name', { exact: true }).fill('Buoys');
  await sheet.getByRole('combobox', { name: 'Segment its clients join' }).click();
  await page.getByRole('option', { name: /^Berth sensors/ }).click();
  await sheet.getByRole('button', { name: 'Add class' }).click();
  await expect(
    page.getByRole('row', { name: /Buoys Berth sensors 0 – the whole estate 6 its segment at \d sites/ }),
  ).toBeVisible();
  // At a site that lacks it one lands at that site's own page.
  await desk.sheet('Buoys').getByRole('link', { name: 'Petrel' }).click();
  await expect(page.getByText('Berth sensors, not at this site').first()).toBeVisible();
});

test('radios of several sites are changed together, and it is said at how many', async ({ desk, page }) => {
  await desk.signIn();
  await desk.overall('Wireless');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Radios' }).click();
  await page.getByRole('checkbox', { name: 'Choose pt-ap-01 5 GHz' }).check();
  await page.getByRole('checkbox', { name: 'Choose gm-ap-01 5 GHz' }).check();
  const sheet = desk.sheet('2 radios');
  await expect(sheet.getByText('What is chosen here is given to all 2, at Guillemot, Petrel.')).toBeVisible();
  await sheet.getByLabel('Power, dBm EIRP').fill('99');
  await sheet.getByLabel('Power, dBm EIRP').press('Tab');
  await expect(sheet.getByText(/Power lies between 1 and \d+ dBm/)).toBeVisible();
  await sheet.getByLabel('Power, dBm EIRP').fill('12');
  await sheet.getByLabel('Power, dBm EIRP').press('Tab');
  await expect(page.getByRole('row', { name: /Petrel pt-ap-01 5 .* 12 / })).toBeVisible();
  await expect(page.getByRole('row', { name: /Guillemot gm-ap-01 5 .* 12 / })).toBeVisible();
  await sheet.getByRole('combobox', { name: 'Plans of channels' }).click();
  await page.getByRole('option', { name: 'leave them as they are' }).click();
  await expect(page.getByRole('row', { name: /Petrel pt-ap-01 5 .* leave it/ })).toBeVisible();
  await desk.expectAccessible();
  await sheet.getByRole('button', { name: 'As their bands say again' }).click();
  await expect(page.getByRole('row', { name: /Petrel pt-ap-01 5 .* leave it/ })).toBeHidden();
});
