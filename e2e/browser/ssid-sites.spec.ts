import { expect, test, inOrder } from './fixtures';

inOrder();

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

test('clients of an SSID go to the gateway in a tunnel: what it costs is said, no port needs the VLAN, and they get there', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Petrel', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  await page.getByRole('button', { name: 'Otherwise here…' }).click();
  const sheet = desk.sheet('Skerrow Passengers at Petrel');
  await sheet.getByRole('combobox', { name: 'How its frames get there' }).click();
  await expect(page.getByRole('option', { name: 'in a tunnel to Ansel Quay, into its segment' })).toBeEnabled();
  await page.getByRole('option', { name: 'in a tunnel (GRE) to its site’s gateway' }).click();
  await expect(sheet.getByText(/42 octets more a frame/)).toBeVisible();
  await expect(sheet.getByText(/It depends on pt-gw-01: while that is silent, nobody/)).toBeVisible();
  await desk.putIntoDraft(sheet);
  await expect(page.getByRole('row', { name: /^Skerrow Passengers .*in a tunnel/ })).toBeVisible();
  await desk.expectAccessible();
  await desk.stage('Lattice');
  await expect(page.getByRole('list', { name: 'Legend' }).getByText('in a tunnel')).toBeVisible();
  await expect(page.getByRole('row', { name: /Passengers.*in a tunnel/ }).first()).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to 3 devices$/);

  // Their APs hear the far end, and they have addresses of their segment.
  const { id } = await estate.site('Petrel');
  const ends = async () =>
    (await estate.call('GET', `/api/sites/${id}/devices`)).flatMap((each: { tunnel: unknown }) => each.tunnel ?? []);
  await expect
    .poll(async () => (await ends()).map(({ answers }: { answers: boolean }) => answers))
    .toEqual([true, true]);
  const without = async () =>
    (await estate.call('GET', `/api/sites/${id}/air-clients`)).clients
      .filter(({ ssid }: { ssid: string }) => ssid === 'Skerrow Passengers')
      .map(({ address }: { address: string | null }) => address !== null);
  await expect.poll(async () => new Set(await without())).toEqual(new Set([true]));
  await desk.stage('Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  await page.getByRole('button', { name: 'Otherwise here…' }).click();
  await expect(sheet.getByText(/It answers all 2 APs now\.$/)).toBeVisible();
  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: 'Skerrow Passengers' }).click();
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  const walk = page.getByRole('region', { name: 'Walk on live' });
  await expect(walk.getByText(/Into the tunnel to /)).toBeVisible();
  await expect(walk.getByText('Out of the tunnel at pt-gw-01')).toBeVisible();
  await expect(walk.getByText('Arrived: the internet answers')).toBeVisible();
});

test('clients of an SSID are carried to another site: its gateway is told too, they have addresses of there, and a walk follows them', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Guillemot', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  await page.getByRole('button', { name: 'Otherwise here…' }).click();
  const sheet = desk.sheet('Skerrow Passengers at Guillemot');
  await sheet.getByRole('combobox', { name: 'How its frames get there' }).click();
  await page.getByRole('option', { name: 'in a tunnel to Ansel Quay, into its segment' }).click();
  await expect(sheet.getByText(/42 octets more a frame .*and 60 of the tunnel between sites/)).toBeVisible();
  await expect(
    sheet.getByText(/It depends on gm-gw-01, on the tunnel to Ansel Quay and on the gateway there/),
  ).toBeVisible();
  // Its segments are those of that site.
  await sheet.getByRole('combobox', { name: 'Segment its clients join' }).click();
  await page.getByRole('option', { name: /^Passengers · 10\.10\./ }).click();
  await desk.putIntoDraft(sheet);
  await expect(page.getByRole('row', { name: /^Skerrow Passengers .*in a tunnel to Ansel Quay/ })).toBeVisible();
  await expect(desk.consequences.getByText('Ansel Quay', { exact: true })).toBeVisible();
  await desk.expectAccessible();
  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await page.getByRole('link', { name: /^Roll(ing)? out…$/ }).click();
  await desk.rollOutAll(/^Roll out to \d+ devices/);

  const { id } = await estate.site('Guillemot');
  const addresses = async () =>
    (await estate.call('GET', `/api/sites/${id}/air-clients`)).clients
      .filter(({ ssid }: { ssid: string }) => ssid === 'Skerrow Passengers')
      .map(({ address }: { address: string | null }) => address?.split('.').slice(0, 2).join('.') ?? '');
  await expect.poll(async () => [...new Set(await addresses())]).toEqual(['10.10']);
  await desk.openSite('Guillemot', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  await page.getByRole('button', { name: 'Otherwise here…' }).click();
  await expect(sheet.getByText(/It answers (the AP|all \d+ APs) now\.$/)).toBeVisible();
  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: 'Skerrow Passengers' }).click();
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  const walk = page.getByRole('region', { name: 'Walk on live' });
  await expect(walk.getByText('Inside the tunnel to Ansel Quay')).toBeVisible();
  await expect(walk.getByText('Out of the tunnel at aq-gw-01')).toBeVisible();
  await expect(walk.getByText('Arrived: the internet answers')).toBeVisible();
});

test('hours are for ports and rules too: outside them nothing passes a port, and a rule is not in force', async ({
  desk,
  page,
  estate,
}) => {
  // A day that it is at none of the sites.
  const far = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'][(new Date().getUTCDay() + 3) % 7]!;
  const { id } = await estate.site('Brinmouth');
  const printers = async () =>
    (await estate.call('GET', `/api/sites/${id}/clients`)).filter(
      ({ at }: { at: { deviceName: string; port?: string } | null }) =>
        at?.deviceName === 'bm-sw-01' && at.port === '11',
    ).length;
  await expect.poll(printers).toBe(1);
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Hours', exact: true }).click();
  await desk.press('Add hours');
  const made = desk.sheet('New hours');
  await made.getByLabel('Name', { exact: true }).fill('Market day');
  await made.getByLabel('In words').fill(`${far} 09:00-17:00`);
  await made.getByLabel('Days left out').fill('2026-12-25');
  await made.getByRole('button', { name: 'Add hours' }).click();
  await expect(desk.sheet('Market day')).toBeVisible();

  await desk.stage('Lattice');
  await page.getByRole('button', { name: 'Ports', exact: true }).click();
  await page.getByRole('row', { name: /bm-sw-01 *11 / }).click();
  const port = desk.sheet('bm-sw-01 port 11');
  await port.getByRole('combobox', { name: 'In use' }).click();
  await page.getByRole('option', { name: `Market day: ${far} 09:00-17:00` }).click();
  await expect(port.getByText('At other times nothing passes, and it gives no power')).toBeVisible();
  await desk.expectAccessible();

  await desk.stage('Rules');
  await desk.press('Add rule');
  const rule = desk.sheet('New rule');
  await rule.getByLabel('From').fill('Crew');
  await rule.getByLabel('To', { exact: true }).fill('internet');
  await rule.getByRole('combobox', { name: 'In force' }).click();
  await page.getByRole('option', { name: `Market day: ${far} 09:00-17:00` }).click();
  await rule.getByRole('button', { name: 'Add the rule' }).click();
  await expect(page.getByText('Market day', { exact: true })).toBeVisible();
  await desk.expectAccessible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to 2 devices$/);
  await expect.poll(printers).toBe(0);
  // Hours that something uses stay.
  await desk.stage('Wireless');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Hours', exact: true }).click();
  await expect(page.getByRole('row', { name: /^Market day .*1 rule, 1 port/ })).toBeVisible();
  await page.getByRole('button', { name: 'Market day' }).click();
  await desk.sheet('Market day').getByRole('button', { name: 'Remove hours' }).click();
  await expect(page.getByText(/“Market day” is used by a rule of Brinmouth/)).toBeVisible();
});
