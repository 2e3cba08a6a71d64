import { expect, test, inOrder } from './fixtures';

inOrder();

test('a claim that cannot be done says why for each device and claims nothing', async ({ desk, page, estate }) => {
  await desk.signIn();
  await desk.openSite('Dunmere Depot');
  await desk.press('Find devices');
  await desk.press('Claim by serial number');
  await page.getByLabel('Serial numbers, as on the labels').fill('3A1-0149-57, 3A1-0107-51, 9Z9-0000-01');
  await desk.press('Claim 3 devices');
  await expect(page.getByText('3A1-0107-51 belongs to Ansel Quay, as aq-gw-01.')).toBeVisible();
  await expect(page.getByText('No device with serial number 9Z9-0000-01 has ever called.')).toBeVisible();
  await expect(page.getByText('Nothing was claimed.')).toBeVisible();
  await desk.press('Close the sheet');

  await page.getByRole('checkbox', { name: 'Choose 7K4-0156-58' }).click();
  await estate.tell({ do: 'power', serial: '7K4-0156-58', on: false });
  await expect(page.getByRole('checkbox', { name: 'Choose 7K4-0156-58' })).toBeHidden();
  await desk.press('Claim 1 device');
  await expect(page.getByText('7K4-0156-58 has stopped calling. Check its power and cable.')).toBeVisible();
  await estate.tell({ do: 'power', serial: '7K4-0156-58', on: true });
  await expect(page.getByRole('checkbox', { name: 'Choose 7K4-0156-58' })).toBeVisible();
});

test('a segment’s wrong values are refused at their fields, in words', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Dunmere Depot', 'Lattice');
  await desk.press('Add segment');
  const sheet = desk.sheet('New segment');
  const field = (label: string) => sheet.getByLabel(label, { exact: true });
  await field('Name').fill('Workshop');
  await field('VLAN ID').fill('4095');
  await expect(sheet.getByText('A VLAN ID is a whole number from 1 to 4094.')).toBeVisible();
  await field('VLAN ID').fill('10');
  await expect(sheet.getByText('VLAN ID 10 is already used by “Crew”.')).toBeVisible();
  await field('VLAN ID').fill('70');
  await expect(field('Subnet')).toHaveValue('10.14.70.0/24');
  await field('Gateway address').fill('10.14.71.1');
  await expect(sheet.getByText('The gateway 10.14.71.1 is outside 10.14.70.0/24.')).toBeVisible();
  await field('Gateway address').fill('10.14.70.100');
  await expect(field('Addresses given, from')).toHaveValue('10.14.70.101'); // follows the gateway
  await field('Addresses given, from').fill('10.14.70.20');
  await expect(sheet.getByText('The range covers the gateway 10.14.70.100.')).toBeVisible();
  await field('to').fill('10.14.80.9');
  await expect(sheet.getByText('The range’s last address 10.14.80.9 is outside 10.14.70.0/24.')).toBeVisible();
  await field('Gateway address').fill('');
  await field('Addresses given, from').fill('');
  await field('to').fill('');
  await field('Subnet').fill('10.12.10.0/24');
  await expect(field('Gateway address')).toHaveValue('10.12.10.1');
  await sheet.getByRole('button', { name: 'Add segment' }).click();
  await expect(sheet.getByText('10.12.10.0/24 overlaps 10.12.10.0/24 of “Crew” at Brinmouth.')).toBeVisible();
  await expect(page.getByRole('rowheader', { name: /Workshop/ })).toHaveCount(0);
});

test('an edit of a subnet carries gateway and range along, and a wrong passphrase is refused', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Calder Skerry', 'Lattice');
  await page.getByRole('rowheader', { name: /Crew/ }).getByRole('button').click();
  const sheet = desk.sheet('Crew');
  await sheet.getByLabel('Subnet').fill('10.15.128.0/25');
  await sheet.getByLabel('Subnet').press('Enter');
  await expect(sheet.getByLabel('Gateway address')).toHaveValue('10.15.128.1');
  await expect(sheet.getByLabel('to', { exact: true })).toHaveValue('10.15.128.126');
  await desk.stage('Wireless');
  await desk.press('Add SSID');
  await desk.sheet('New SSID').getByLabel('Name on the air').fill('Pier');
  await desk.sheet('New SSID').getByLabel('Passphrase').fill('short');
  await desk.sheet('New SSID').getByRole('button', { name: 'Add SSID' }).click();
  await expect(page.getByText('A passphrase has 8 to 63 characters', { exact: false })).toBeVisible();
  await estate.call('DELETE', `/api/drafts/${(await estate.draft()).id}`); // other tests share the estate
});

test('an observer may look and walk, but is offered nothing to change', async ({ desk, page }) => {
  await desk.signInByForm('tam@skerrow.example', 'observer-demo-26');
  await expect(page.getByRole('button', { name: 'Add site' })).toHaveCount(0);
  await desk.openSite('Ansel Quay', 'Lattice');
  await expect(page.getByRole('button', { name: 'Add segment' })).toHaveCount(0);
  await desk.stage('Bench');
  await desk.press('Walk');
  await expect(
    page.getByRole('region', { name: 'Walk on live' }).getByText('Arrived: the internet answers'),
  ).toBeVisible();
});

test('a wrong password is refused, and search-or-do leads to a device by its MAC', async ({ desk, page }) => {
  await page.goto(desk.estate.address);
  await page.getByLabel('Mail address').fill('ida@skerrow.example');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toHaveText('The address or the password is wrong.');
  await desk.signInByForm();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('02:5a:10:00:01:58');
  await expect(page.getByRole('option', { name: /bm-gw-01/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(desk.sheet('bm-gw-01')).toBeVisible();
  await desk.press('Ask');
  await desk.press('Ping');
  await expect(desk.sheet('bm-gw-01').getByText('10.12.1.1 answers.')).toBeVisible();
});
