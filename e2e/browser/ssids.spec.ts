import { expect, test, inOrder } from './fixtures';

inOrder();

test('an SSID is capped as a whole and for each client; what that leaves is said, rolled out, and measured', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  const sheet = desk.sheet('Skerrow Passengers');
  await sheet.getByLabel('Each client down, Mb/s').fill('8');
  await sheet.getByLabel('All together down, Mb/s').fill('20');
  const share = (row: string) => sheet.getByRole('row', { name: new RegExp(`^${row}`) });
  await expect(share('Down, each')).toHaveText(/^Down, each\s*8\s*8\s*4\s*1\s*0\.2/);
  await expect(sheet.getByText('Each client is held at its AP. All together: at the gateway.')).toBeVisible();
  await desk.putIntoDraft(sheet);
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);

  await desk.stage('Wireless');
  await page.getByRole('button', { name: 'Speed', exact: true }).click();
  const choose = async (field: string, option: string | RegExp): Promise<void> => {
    await page.getByRole('combobox', { name: field }).click();
    await page.getByRole('option', { name: option }).click();
  };
  await choose('Probe joins', 'Skerrow Passengers');
  await page.getByRole('button', { name: 'Test', exact: true }).click();
  await expect(page.getByRole('status').filter({ hasText: /8 Mb\/s down/ })).toContainText(
    'Narrowest: cap: each client of the SSID, at the AP',
  );
  await choose('How many at once', /^5 beside/);
  await page.getByRole('button', { name: 'Test', exact: true }).click();
  await expect(page.getByRole('status').filter({ hasText: /4 Mb\/s down/ })).toContainText(
    /Narrowest: cap: SSID Skerrow Passengers, at the gateway\.\s+Each of 5: 4, 4, 4, 4, 4 down/,
  );
  await desk.expectAccessible();
});

test('an SSID is switched off and on: its clients lose it, and nothing that is said of it is lost', async ({
  desk,
  page,
  estate,
}) => {
  const joined = () => estate.clientsOn('Skerrow Passengers');
  const before = await joined();
  expect(before).toBeGreaterThan(10);
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  const sheet = desk.sheet('Skerrow Passengers');
  await sheet.getByRole('button', { name: 'Switch off' }).click();
  await expect(page.getByRole('row', { name: /^Skerrow Passengers .*switched off/ })).toBeVisible();
  await expect(desk.consequences.getByText('3 other sites')).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(joined).toBe(0);
  await desk.stage('Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  await expect(sheet.getByText('Switched off: all of it is kept, and no access point sends it.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Switch on' }).click();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(joined).toBe(before);
});

test('what an SSID asks for decides who joins it: a phone of before WPA3 is walked, and told where it fails', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await desk.press('Add SSID');
  const added = desk.sheet('New SSID');
  await added.getByLabel('Name on the air').fill('Harbour Office');
  await added.getByRole('combobox', { name: 'Security' }).click();
  await page.getByRole('option', { name: 'Open', exact: true }).click();
  await added.getByRole('checkbox', { name: '6 GHz' }).click();
  await added.getByRole('button', { name: 'Take enhanced open' }).click();
  await added.getByRole('combobox', { name: 'Segment' }).click();
  await page.getByRole('option', { name: /^Crew/ }).click();
  await added.getByRole('button', { name: 'Add SSID' }).click();
  const open = desk.consequences.getByText('Anybody who joins “Harbour Office” reaches private space');
  await expect(open).toBeVisible();
  await desk.consequences.getByRole('button', { name: 'Mend: keep its clients from other segments' }).click();
  await expect(open).toBeHidden();

  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: 'Harbour Office' }).click();
  await page.getByRole('checkbox', { name: 'Older than WPA3' }).check();
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  const walk = page.getByRole('region', { name: 'Walk on the draft' });
  await expect(walk.getByText('“Harbour Office” asks for OWE.', { exact: false })).toBeVisible();
  await page.getByRole('checkbox', { name: 'Older than WPA3' }).uncheck();
  await expect(walk.getByText('Let in, encrypted')).toBeVisible();
});

test('an SSID is on the air at painted hours: outside them its clients lose it, and a walk says why', async ({
  desk,
  page,
  estate,
}) => {
  const joined = () => estate.clientsOn('Skerrow Passengers');
  expect(await joined()).toBeGreaterThan(10);
  // A day that it is at none of the sites.
  const days = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
  const far = days[(new Date().getUTCDay() + 3) % 7]!;
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  const look = page.getByRole('group', { name: 'What is shown' });
  await look.getByRole('button', { name: 'Hours', exact: true }).click();
  await desk.press('Add hours');
  const sheet = desk.sheet('New hours');
  await sheet.getByLabel('Name', { exact: true }).fill('Market day');
  await sheet.getByLabel('In words').fill('');
  const cell = (time: string) => sheet.getByRole('gridcell', { name: new RegExp(`^${far} ${time}`) });
  const [from, to] = [(await cell('09:00').boundingBox())!, (await cell('16:30').boundingBox())!];
  await page.mouse.move(from.x + 2, from.y + 5);
  await page.mouse.down();
  await page.mouse.move(to.x + 2, to.y + 5, { steps: 4 });
  await page.mouse.up();
  await expect(sheet.getByLabel('In words')).toHaveValue(`${far} 09:00-17:00`);
  await sheet.getByRole('button', { name: 'Add hours' }).click();
  await expect(desk.sheet('Market day')).toBeVisible();
  await desk.expectAccessible();
  const saved = page.waitForEvent('download');
  await desk.sheet('Market day').getByRole('button', { name: 'iCalendar' }).click();
  expect((await saved).suggestedFilename()).toBe('market-day.ics');

  await look.getByRole('button', { name: 'SSIDs', exact: true }).click();
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  const ssid = desk.sheet('Skerrow Passengers');
  await ssid.getByRole('combobox', { name: 'On the air' }).click();
  await page.getByRole('option', { name: `Market day: ${far} 09:00-17:00` }).click();
  await desk.putIntoDraft(ssid);
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(joined).toBe(0);

  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: 'Skerrow Passengers' }).click();
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  const walk = page.getByRole('region', { name: 'Walk on live' });
  await expect(walk.getByText('Not on the air now')).toBeVisible();
  await expect(walk.getByText(`is sent ${far} 09:00-17:00 (Market day)`, { exact: false })).toBeVisible();
});

test('a new passphrase cuts nobody off while the old one is right, who still gives that is shown, and it is ended', async ({
  desk,
  page,
  estate,
}) => {
  const joined = () => estate.clientsOn('Skerrow Crew');
  const before = await joined();
  expect(before).toBeGreaterThan(5);
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Crew' }).click();
  const sheet = desk.sheet('Skerrow Crew');
  await sheet.getByLabel('Passphrase', { exact: true }).fill('bowline-and-sheet-bend-27');
  await sheet.getByRole('button', { name: 'Keep it a while' }).click();
  await expect(sheet.getByText('WPA3 knows one passphrase', { exact: false })).toBeVisible();
  await desk.putIntoDraft(sheet);
  await expect(sheet.getByText(/is right until the end of/)).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(joined).toBe(before);
  await desk.stage('Wireless');
  await page.getByRole('button', { name: 'Skerrow Crew' }).click();
  await expect(sheet.getByText(/\d clients here still use it: /)).toBeVisible();
  await desk.expectAccessible();
  await sheet.getByRole('button', { name: 'End it now' }).click();
  await expect(sheet.getByText(/is right until the end of/)).toBeHidden();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(joined).toBe(0);
});

test('an SSID is sent by chosen APs of a site alone', async ({ desk, page, estate }) => {
  const sending = async (): Promise<string[]> => {
    const { id } = await estate.site('Ansel Quay');
    const devices = await estate.call('GET', `/api/sites/${id}/devices`);
    const sends = ({ radioFacts }: { radioFacts: { sends?: { ssid: string }[] }[] }) =>
      radioFacts.some((radio) => radio.sends?.some(({ ssid }) => ssid === 'Skerrow Till'));
    return devices.filter(sends).map(({ name }: { name: string }) => name);
  };
  await expect.poll(sending).toHaveLength(4);
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Till' }).click();
  const sheet = desk.sheet('Skerrow Till');
  await sheet.getByRole('combobox', { name: 'Sent by' }).click();
  await page.getByRole('option', { name: 'chosen APs' }).click();
  await sheet.getByRole('combobox', { name: 'APs here that send it' }).click();
  for (const name of ['aq-ap-02', 'aq-ap-03', 'aq-ap-04']) await page.getByRole('option', { name }).click();
  await page.keyboard.press('Escape');
  await desk.putIntoDraft(sheet);
  await expect(page.getByRole('row', { name: /^Skerrow Till .* 1 AP / })).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(sending).toEqual(['aq-ap-01']);

  // Those with a tag instead: chosen once, they are the APs that have it then.
  const { id } = await estate.site('Ansel Quay');
  const devices = await estate.call('GET', `/api/sites/${id}/devices`);
  for (const name of ['aq-ap-02', 'aq-ap-04']) {
    const ap = devices.find((each: { name: string }) => each.name === name);
    await estate.call('PATCH', `/api/devices/${ap.id}`, { version: ap.version, tags: [...ap.tags, 'till'] });
  }
  await desk.stage('Wireless');
  await page.reload();
  await page.getByRole('button', { name: 'Skerrow Till' }).click();
  await sheet.getByRole('combobox', { name: 'Sent by' }).click();
  await page.getByRole('option', { name: 'APs with a tag' }).click();
  await sheet.getByRole('combobox', { name: 'Tag of the APs here' }).click();
  await page.getByRole('option', { name: 'till: 2 APs' }).click();
  await desk.putIntoDraft(sheet);
  await expect(page.getByRole('row', { name: /^Skerrow Till .* 2 APs / })).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(async () => (await sending()).sort()).toEqual(['aq-ap-02', 'aq-ap-04']);
});
