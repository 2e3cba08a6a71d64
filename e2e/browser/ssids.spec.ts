import { expect, test } from './fixtures';

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
  await expect(page.getByRole('option', { name: '802.1X, once Entry brings it' })).toBeDisabled();
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
  await page.getByRole('gridcell', { name: 'Skerrow Till', exact: true }).click();
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
});

test('one site has a passphrase and bands of its own of an SSID that others share: theirs stay as they are', async ({
  desk,
  page,
  estate,
}) => {
  const joined = async () => {
    const names = new Map((await estate.ours()).map(({ serial, name }) => [serial, name as string]));
    const [here, elsewhere] = [[], []] as string[][];
    for (const { serial, clients } of await estate.devices())
      for (const { ssid, mac } of clients)
        if (ssid === 'Skerrow Crew') (names.get(serial)?.startsWith('pt-') ? here! : elsewhere!).push(mac);
    return { here: here!.length, elsewhere: elsewhere!.length, one: here![0] };
  };
  await desk.signIn();
  await desk.openSite('Petrel', 'Wireless');
  const before = await joined();
  expect(before.here).toBeGreaterThan(0);
  await page.getByRole('button', { name: 'Skerrow Crew' }).click();
  await page.getByRole('button', { name: 'Otherwise here…' }).click();
  const sheet = desk.sheet('Skerrow Crew at Petrel');
  await sheet.getByRole('combobox', { name: 'Passphrase' }).click();
  await page.getByRole('option', { name: 'one of this site' }).click();
  await sheet.getByLabel('Passphrase of this site').fill('gulls over petrel');
  await sheet.getByRole('checkbox', { name: '2.4 GHz' }).click();
  await expect(sheet.getByText('Elsewhere 2.4, 5, 6 GHz')).toBeVisible();
  await desk.putIntoDraft(sheet);
  await expect(page.getByRole('row', { name: /^Skerrow Crew .* 5, 6 .*otherwise here/ })).toBeVisible();
  await desk.expectAccessible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to 2 devices$/);
  // Who gives the passphrase of all sites is let in at all others, and is not here; who gives this one's is.
  await expect.poll(async () => (await joined()).here).toBe(0);
  expect((await joined()).elsewhere).toBe(before.elsewhere);
  await estate.tell({ do: 'look-for', mac: before.one, ssid: 'Skerrow Crew', passphrase: 'gulls over petrel' });
  await expect.poll(async () => (await joined()).here).toBe(1);
  // What others change of it does not touch what is said here, and it is taken back by one press.
  await desk.stage('Wireless');
  await page.getByRole('button', { name: 'Skerrow Crew' }).click();
  await expect(desk.sheet('Skerrow Crew').getByText('Otherwise at Petrel: passphrase and bands.')).toBeVisible();
  await page.getByRole('button', { name: 'Otherwise here…' }).click();
  await sheet.getByRole('button', { name: 'All as elsewhere' }).click();
  await expect(page.getByRole('row', { name: /^Skerrow Crew .*2\.4, 5, 6/ })).toBeVisible();
  await expect(desk.consequences.getByText('pt-ap-01')).toBeVisible();
});

test('an SSID is for sites with a tag: one that gets the tag later is found there, and reached by one press', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.overall('Wireless');
  await page.getByRole('gridcell', { name: 'Skerrow Till', exact: true }).click();
  const sheet = desk.sheet('Skerrow Till');
  await sheet.getByRole('combobox', { name: 'Reaches', exact: true }).click();
  await page.getByRole('option', { name: 'sites with a tag' }).click();
  await sheet.getByRole('combobox', { name: 'Tag of the sites' }).click();
  await page.getByRole('option', { name: 'terminal: 2 sites' }).click();
  await desk.putIntoDraft(sheet);
  await desk.expectAccessible();

  const { sites } = await estate.call('GET', '/api/estate');
  const petrel = sites.find(({ name }: { name: string }) => name === 'Petrel');
  const { version, address, coordinates, purpose, window } = petrel;
  const tags = [...petrel.tags, 'terminal'];
  await estate.call('PATCH', `/api/sites/${petrel.id}`, { version, address, coordinates, purpose, window, tags });
  await expect(sheet.getByText('1 site more has it by now.')).toBeVisible();
  await desk.openSite('Petrel', 'Wireless');
  await expect(
    desk.consequences.getByText('“Skerrow Till” is for sites tagged terminal, and not here yet'),
  ).toBeVisible();
  await expect(page.getByRole('row', { name: /^Skerrow Till/ })).toHaveCount(0);
  await desk.consequences.getByRole('button', { name: 'Mend: let it reach Petrel too' }).click();
  await expect(page.getByRole('row', { name: /^Skerrow Till .*3 sites tagged terminal/ })).toBeVisible();
});

test('a segment is switched off and on: its clients lose it on the air, and nothing that is said of it is lost', async ({
  desk,
  page,
  estate,
}) => {
  const joined = () => estate.clientsOn('Skerrow Passengers');
  const before = await joined();
  await desk.signIn();
  await desk.openSite('Guillemot', 'Lattice');
  const row = page.getByRole('rowheader', { name: /^Passengers/ });
  await row.click();
  const sheet = desk.sheet('Passengers');
  await sheet.getByRole('checkbox', { name: 'the segment' }).uncheck();
  await expect(row.getByText('switched off')).toBeVisible();
  await expect(
    desk.consequences.getByText('“Skerrow Passengers” is not sent at Guillemot: its segment is switched off'),
  ).toBeVisible();
  await desk.expectAccessible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(joined).toBeLessThan(before);
  expect(await joined()).toBeGreaterThan(0); // at other sites they stay
  await desk.stage('Lattice');
  await row.click();
  await sheet.getByRole('checkbox', { name: 'the segment' }).check();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(joined).toBe(before);
});

test('multicast is kept off the air of one SSID: what it takes is shown before, and nothing of it is sent after', async ({
  desk,
  page,
  estate,
}) => {
  const taken = async () => {
    const names = new Map((await estate.ours()).map(({ serial, name }) => [serial, name as string]));
    const here = (await estate.devices()).filter(({ serial }) => names.get(serial)?.startsWith('pt-'));
    return here
      .flatMap(({ radios }) => radios.flatMap(({ sends = [] }) => sends))
      .filter(({ ssid }) => ssid === 'Skerrow Passengers')
      .map(({ toAll }) => toAll!.share);
  };
  expect(Math.max(...(await taken()))).toBeGreaterThan(0);
  await desk.signIn();
  await desk.openSite('Petrel', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  const sheet = desk.sheet('Skerrow Passengers');
  await expect(sheet.getByText(/2\.4 GHz \d+\.\d % as it comes, \d+\.\d % a copy each/)).toBeVisible();
  await sheet.getByRole('combobox', { name: 'Multicast and broadcast' }).click();
  await page.getByRole('option', { name: 'kept off the air' }).click();
  await desk.putIntoDraft(sheet);
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await expect.poll(taken).toEqual([0, 0, 0, 0]);
});
