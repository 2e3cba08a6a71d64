import { expect, test, type Desk, inOrder } from './fixtures';
import type { Page } from '@playwright/test';

inOrder();

const NAME = 'Skerrow Berths';

/** Adds an SSID that asks for keys of a ring, and goes to its keys. */
async function addRing(desk: Desk, page: Page): Promise<void> {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await desk.press('Add SSID');
  const sheet = desk.sheet('New SSID');
  await sheet.getByLabel('Name on the air').fill(NAME);
  await sheet.getByRole('combobox', { name: 'Security' }).click();
  await page.getByRole('option', { name: 'Key ring (WPA2)' }).click();
  await sheet.getByRole('checkbox', { name: '6 GHz' }).check();
  await expect(sheet.getByText('A key ring is not for 6 GHz.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Leave 6 GHz out' }).click();
  await sheet.getByRole('combobox', { name: 'Segment' }).click();
  await page.getByRole('option', { name: /Passengers/ }).click();
  await sheet.getByRole('button', { name: 'Add SSID' }).click();
  await desk.sheet(NAME).getByRole('link', { name: 'Keys of this ring' }).click();
  await expect(page.getByText('No key yet.', { exact: false })).toBeVisible();
}

test('keys are made in bulk with their segments, kept apart; a client joins with one, and is gone when it is taken back', async ({
  desk,
  page,
  estate,
}) => {
  await addRing(desk, page);
  await desk.press('Make many');
  const many = desk.sheet('Many keys');
  await many.getByLabel('How many').fill('5000000');
  await expect(many.getByText('1 to 10,000.')).toBeVisible();
  await many.getByLabel('How many').fill('3');
  await many.getByRole('combobox', { name: 'They lead to' }).click();
  await page.getByRole('option', { name: 'each its own segment, by number' }).click();
  await many.getByLabel('VLAN ID: number and').fill('4093');
  await expect(many.getByText('The last would be VLAN 4096', { exact: false })).toBeVisible();
  await many.getByLabel('VLAN ID: number and').fill('100');
  await expect(many.getByText('3 segments made, 0 there already.')).toBeVisible();
  await expect(many.getByRole('gridcell', { name: '102', exact: true })).toBeVisible();
  await desk.expectAccessible();
  await many.getByRole('button', { name: 'Make 3 keys, put 3 segments into the draft' }).click();
  const row = (name: string) => page.getByRole('row', { name: new RegExp(`^Choose ${name} `) });
  await expect(row('Berth 2')).toContainText('to be rolled out');
  // Where switches do not carry what keys lead to it is said, and mended.
  await expect(desk.consequences.getByText(/^Berth 1 stops at bm-sw-01 port/).first()).toBeVisible();
  await desk.press(/^Mend all /);
  await desk
    .sheet('Mend all')
    .getByRole('button', { name: /^Put \d+ edits into the draft$/ })
    .click();
  await expect(desk.consequences.getByText(/^Berth 1 stops at/)).toHaveCount(0);
  await desk.stage('Rules');
  await expect(page.getByText(`${NAME} segments are kept from each other`, { exact: false }).first()).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);

  await desk.stage('Wireless');
  await page.getByRole('button', { name: 'Keys', exact: true }).click();
  await expect(row('Berth 2')).toContainText('right');
  await row('Berth 2').getByRole('gridcell', { name: 'Berth 2', exact: true }).first().click();
  const sheet = desk.sheet('Berth 2');
  await sheet.getByRole('button', { name: 'Show', exact: true }).click();
  const key = (await sheet.locator('code').textContent())!;
  expect(key).toMatch(/^[a-z2-9]{12}$/);
  const { id } = await estate.site('Brinmouth');
  const { clients } = await estate.call('GET', `/api/sites/${id}/air-clients`);
  await estate.tell({ do: 'look-for', mac: clients[0].mac, ssid: NAME, passphrase: key });
  await expect(sheet.getByText(`${clients[0].mac} now`)).toBeVisible();
  await desk.expectAccessible();

  await sheet.getByRole('button', { name: 'Take it back' }).click();
  await expect(page.getByText('1 key taken back.', { exact: false })).toBeVisible();
  await expect.poll(() => estate.clientsOn(NAME)).toBe(0);
  await page.getByRole('button', { name: 'Bring back', exact: true }).click();
  await expect.poll(() => estate.clientsOn(NAME)).toBe(1);

  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: NAME }).click();
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  const walk = page.getByRole('region', { name: 'Walk on live' });
  await expect(walk.getByText(`No key of “${NAME}” is the one that is given`, { exact: false })).toBeVisible();
  await page.getByLabel('Key of', { exact: true }).fill('Berth 2');
  await page.getByRole('button', { name: 'Walk again' }).click();
  await expect(walk.getByText('The key of Berth 2 leads to Berth 2, VLAN 102.')).toBeVisible();
  // The same from a seat, which the devices answer.
  const seat = page.getByRole('region', { name: 'Ask from a seat' });
  await seat.getByRole('combobox', { name: 'Seat' }).click();
  await page.getByRole('option', { name: `${NAME}, near bm-ap-01` }).click();
  await seat.getByLabel('Address or name').fill('198.51.100.80');
  await seat.getByRole('button', { name: 'Try', exact: true }).click();
  await expect(seat.getByText(`“${NAME}” asks for a key of its ring.`)).toBeVisible();
  await seat.getByLabel('Gives the key of', { exact: true }).fill('Berth 2');
  await seat.getByRole('button', { name: 'Try', exact: true }).click();
  await expect(seat.getByText(`“${NAME}” asks for a key of its ring.`)).toHaveCount(0);
  await expect(seat.getByText(/From 10\.\d+\.\d+\.\d+: /)).toBeVisible();
});

test('one key is made on a phone; a list is looked at row by row, and goes out with the keys', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await page.setViewportSize({ width: 390, height: 844 });
  await page.getByRole('button', { name: 'Keys', exact: true }).click();
  await desk.press('Add key');
  const sheet = desk.sheet('New key');
  await sheet.getByLabel('Whom it is for').fill('Chandler');
  await sheet.getByLabel('Key', { exact: true }).fill('seven12');
  await sheet.getByRole('button', { name: 'Make the key' }).click();
  await expect(sheet.getByText('this has 7.', { exact: false })).toBeVisible();
  await sheet.getByRole('button', { name: 'Draw one' }).click();
  await sheet.getByRole('button', { name: 'Make the key' }).click();
  await expect(desk.sheet('Chandler')).toBeVisible();
  await page.setViewportSize({ width: 1280, height: 800 });
  // A change acts at once, and is changed back by one press.
  const chandler = page.getByRole('row', { name: /^Choose Chandler / });
  await desk.sheet('Chandler').getByLabel('Right until').fill('2026-12-24');
  await desk.sheet('Chandler').getByRole('button', { name: 'Change it now' }).click();
  await expect(chandler).toContainText('2026-12-24');
  await page.getByRole('button', { name: 'Change it back' }).click();
  await expect(chandler).not.toContainText('2026-12-24');

  await desk.press('Bring a list');
  const list = desk.sheet('Keys from a list');
  await list
    .getByLabel('Or typed, pasted')
    .fill('name,key,until\nBoatyard,,2026-12-31\nChandler,another of them,\nCrane,short,\n');
  await list.getByRole('button', { name: 'Look at it' }).click();
  await expect(list.getByText('1 key to make, 2 not good.')).toBeVisible();
  await expect(list.getByText('“Chandler” has a key in this ring already.')).toBeVisible();
  await list.getByRole('button', { name: 'Make the 1 good key' }).click();
  await expect(page.getByRole('row', { name: /^Choose Boatyard / })).toContainText('2026-12-31');

  await page.getByRole('checkbox', { name: 'Choose Boatyard' }).check();
  await page.getByRole('button', { name: '1 chosen…' }).click();
  const saved = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'CSV with the keys' }).click();
  const chunks: Buffer[] = [];
  for await (const chunk of await (await saved).createReadStream()) chunks.push(chunk as Buffer);
  expect(Buffer.concat(chunks).toString()).toMatch(/^name,key,.*\r\nBoatyard,[a-z2-9]{12},/);
});

test('a key leads to an access class, and whoever nothing gives one has that of everybody else', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Entry');
  const addClass = async (name: string, segment: string, otherwise: boolean): Promise<void> => {
    await desk.press('Add access class');
    const sheet = desk.sheet('New access class');
    await sheet.getByLabel('Name').fill(name);
    await sheet.getByRole('combobox', { name: 'Segment its clients join' }).click();
    await page.getByRole('option', { name: new RegExp(`^${segment} `) }).click();
    if (otherwise) await sheet.getByRole('checkbox', { name: 'whom nothing gives another class' }).check();
    await sheet.getByRole('button', { name: 'Add class' }).click();
    await expect(desk.sheet(name)).toBeVisible();
  };
  await addClass('Divers', 'Crew', false);
  await addClass('Visitors', 'Ticketing', true);
  await expect(page.getByRole('row', { name: /^Visitors/ })).toContainText('and everybody else');
  // It is said where that reaches further than the ring.
  await expect(desk.sheet('Visitors').getByText(/^Whoever has none on “Skerrow Crew”, instead of/)).toBeVisible();
  await desk.expectAccessible();
  await desk.stage('Wireless');
  await page.getByRole('button', { name: 'SSIDs', exact: true }).click();
  await page.getByRole('row').filter({ hasText: NAME }).click();
  await desk
    .sheet(NAME)
    .getByRole('checkbox', { name: /^but a key may lead to an access class/ })
    .check();
  await desk.putIntoDraft(desk.sheet(NAME));
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);

  await desk.stage('Wireless');
  await page.getByRole('button', { name: 'Keys', exact: true }).click();
  const make = async (name: string, key: string, leads: string | null): Promise<void> => {
    await desk.press('Add key');
    const sheet = desk.sheet('New key');
    await sheet.getByLabel('Whom it is for').fill(name);
    await sheet.getByLabel('Key', { exact: true }).fill(key);
    if (leads !== null) {
      await sheet.getByRole('combobox', { name: 'It leads to' }).click();
      await page.getByRole('option', { name: leads }).click();
    }
    await sheet.getByRole('button', { name: 'Make the key' }).click();
    await expect(desk.sheet(name)).toBeVisible();
  };
  await make('Diver 1', 'the bell is rung twice', 'the class Divers');
  await make('Quay watch', 'nothing is said of it', null);
  await expect(page.getByRole('row', { name: /^Choose Diver 1 / })).toContainText('class Divers');
  // A key that leads to nothing there is said at once, here and where the draft is judged, and no more once it is taken back.
  await desk.press('Bring a list');
  const list = desk.sheet('Keys from a list');
  await list.getByLabel('Or typed, pasted').fill('name,key,class\nLost,,Pilots\n');
  await list.getByRole('button', { name: 'Look at it' }).click();
  await list.getByRole('button', { name: 'Make 1 key' }).click();
  const lost = desk.consequences.getByText(`One key of “${NAME}” lets nobody in`);
  await expect(lost).toBeVisible();
  await page.getByRole('row', { name: /^Choose Lost / }).click();
  await desk.sheet('Lost').getByRole('button', { name: 'Take it back' }).click();
  await expect(lost).toHaveCount(0);
  const { id } = await estate.site('Brinmouth');
  const { clients } = await estate.call('GET', `/api/sites/${id}/air-clients`);
  const [diver, watch] = clients.filter((each: { ssid: string }) => each.ssid !== NAME);
  await estate.tell({ do: 'look-for', mac: diver.mac, ssid: NAME, passphrase: 'the bell is rung twice' });
  await estate.tell({ do: 'look-for', mac: watch.mac, ssid: NAME, passphrase: 'nothing is said of it' });
  await desk.stage('Entry');
  await page.getByRole('row', { name: /^Divers/ }).click();
  await expect(desk.sheet('Divers').getByText('by its key')).toBeVisible();
  await page.getByRole('row', { name: /^Visitors/ }).click();
  await expect(desk.sheet('Visitors').getByText(`${watch.name}:`)).toContainText('as everybody else');
});

test('keys may be at a RADIUS server: what it names for a device is really asked, and leads where it says', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await page.getByRole('row', { name: new RegExp(NAME) }).click();
  const sheet = desk.sheet(NAME);
  await sheet.getByRole('combobox', { name: 'Its keys are' }).click();
  await page.getByRole('option', { name: 'at RADIUS servers' }).click();
  await expect(sheet.getByText('Skerrow accounts', { exact: false })).toBeVisible();
  await sheet.getByLabel('Segments that its keys may lead to').fill('Crew');
  await page.getByRole('option', { name: /^Crew/ }).click();
  await desk.expectAccessible();
  await sheet.getByRole('button', { name: 'Put into the draft' }).click();
  await page.getByRole('button', { name: 'Keys', exact: true }).click();
  await expect(page.getByText('what is kept here lets nobody in from then on', { exact: false })).toBeVisible();

  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: NAME }).click();
  await page.getByLabel('Known as').first().fill('0e:c4:11:00:01:ed');
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  const walk = page.getByRole('region', { name: 'Walk on the draft' });
  await expect(walk.getByText('this probe gives none', { exact: false })).toBeVisible();
  await page.getByLabel('Gives the key').first().fill('mooring line 29');
  await page.getByRole('button', { name: 'Walk again' }).click();
  await expect(walk.getByText('leads to Crew, VLAN 10.', { exact: false }).last()).toBeVisible();
  await page.getByLabel('Gives the key').first().fill('mooring line 30');
  await page.getByRole('button', { name: 'Walk again' }).click();
  await expect(walk.getByText('names 2 keys, and none of them', { exact: false })).toBeVisible();
});
