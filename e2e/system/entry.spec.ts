import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Estate } from './estate';

let estate: Estate;
let siteId = '';
let radiusId = '';
let asker: Json;
beforeAll(async () => {
  estate = await Estate.start();
  await estate.signIn();
  await estate.allInStep();
  siteId = (await estate.site('Brinmouth')).id;
  const { estate: shared, roster } = await estate.siteDraft(siteId);
  radiusId = shared.radius[0].id;
  asker = roster.find((each: Json) => each['name'] === 'bm-ap-01');
});
afterAll(() => estate.end());

type Json = Record<string, any>;
const FIRST = 'radius.skerrow.example';
const PRINTER = '0e:c4:50:00:00:01';
const mood = (name: string, how: string | null): Promise<void> => estate.tell({ do: 'radius', name, mood: how });
async function tries(change: object = {}): Promise<Json> {
  const { id } = await estate.draft();
  const asked = { deviceId: asker['id'], method: 'pap', user: 'marn.ellis', password: 'lantern fish 4', ...change };
  return estate.call('POST', `/api/drafts/${id}/radius/${radiusId}/test`, asked);
}
const kind = async (change: object = {}): Promise<string> => (await tries(change))['outcome'].kind;
const set = (from: object, to: object): Promise<unknown> => estate.edit([{ type: 'radius.set', radiusId, from, to }]);

test('a server of the draft is really asked, and what is wrong is told apart', async () => {
  expect(await kind()).toBe('unknown-class'); // it says Crew, and there is no such class yet
  const accessClass = { id: randomUUID(), name: 'Crew', segment: 'Crew', members: [], reach: { kind: 'estate' } };
  await estate.edit([{ type: 'class.add', accessClass }]);
  const { outcome, exchange } = await tries({ method: 'eap-md5' });
  expect(outcome).toMatchObject({ kind: 'let-in', accessClass: { name: 'Crew' }, segment: { name: 'Crew', vlan: 10 } });
  expect(exchange.packets.map(({ name }: Json) => name)).toEqual([
    ...['Access-Request', 'Access-Challenge', 'Access-Request', 'Access-Accept'],
  ]);
  expect(JSON.stringify(exchange)).not.toMatch(/lantern|tide-bell/);
  expect(await kind({ password: 'lantern fish 5' })).toBe('rejected');
  expect(await kind({ user: 'nobody at all' })).toBe('rejected');

  await set({ timeout: 3, tries: 3 }, { timeout: 1, tries: 1 });
  const ends: Record<string, string> = {};
  for (const how of ['silent', 'wrong-secret', 'reject-all', 'unknown-class', 'slow', 'late']) {
    await mood(FIRST, how);
    ends[how] = await kind();
  }
  await mood(FIRST, null);
  expect(ends).toEqual({
    ...{ silent: 'silent', 'wrong-secret': 'unproven', 'reject-all': 'rejected', 'unknown-class': 'unknown-class' },
    ...{ slow: 'silent', late: 'silent' },
  });
  await set({ port: 1812 }, { port: 1912 });
  expect(await kind()).toBe('closed');
  await set({ port: 1912 }, { port: 1812 });
  await set({ address: FIRST }, { address: 'radius.nowhere.example' });
  expect(await kind()).toBe('unresolved');
  await set({ address: 'radius.nowhere.example' }, { address: '10.99.0.7' });
  expect(await kind()).toBe('unreachable');
  await set({ address: '10.99.0.7' }, { address: FIRST });
  await set({ source: 'device' }, { source: 'gateway' });
  expect(await kind()).toBe('let-in');
  await set({ source: 'gateway' }, { source: 'device' });
  // So short a patience was for this: whoever starts on a busy machine needs more.
  await set({ timeout: 1, tries: 1 }, { timeout: 3, tries: 3 });
});

test('a device that no list has is let in at a port as a server says; a second one takes over; a restart forgets nothing', async () => {
  const { roster, site } = await estate.siteDraft(siteId);
  const { id: deviceId } = roster.find((each: Json) => each['name'] === 'bm-sw-01');
  const accessClass = { id: randomUUID(), name: 'Printers', segment: 'Ticketing', members: [] };
  const at = { siteId, deviceId, port: '11' };
  const from = site.ports[deviceId]['11'];
  const other = site.ports[deviceId]['12'];
  await estate.edit([
    { type: 'class.add', accessClass: { ...accessClass, reach: { kind: 'sites', siteIds: [siteId] } } },
    { type: 'port.set', ...at, from, to: { ...from, auth: 'mac' } },
    { type: 'port.set', ...at, port: '12', from: other, to: { ...other, auth: 'mac' } },
  ]);
  expect((await estate.rollOut(true)).state).toBe('done');
  const printer = async (): Promise<Json | undefined> =>
    (await estate.call('GET', `/api/sites/${siteId}/clients`)).find((each: Json) => each['mac'] === PRINTER);
  const isIn = (server: string): Promise<unknown> =>
    estate.until(`the printer is in Ticketing by ${server}`, async () => {
      const found = await printer();
      return found?.['vlan'] === 20 && found['at'] && found['named']?.server === server && found;
    });
  await isIn('Skerrow accounts');
  expect((await printer())!['named'].classId).toBe(accessClass.id);
  // The one beside it is in no list and no directory: who looks sees why.
  const stranger = await estate.until('the other printer is told as not known', async () => {
    const found: Json[] = await estate.call('GET', `/api/sites/${siteId}/unknown-clients`);
    return found.find((each) => each['mac'] === '0e:c4:50:00:00:02' && each['why'] === 'rejected');
  });
  expect(stranger).toMatchObject({ deviceName: 'bm-sw-01', port: '12', server: 'Skerrow accounts' });

  // The first one dies: whoever starts anew asks the second.
  await mood(FIRST, 'silent');
  await estate.tell({ do: 'power', serial: '5C2-0121-53', on: false });
  await estate.tell({ do: 'power', serial: '5C2-0121-53', on: true });
  await isIn('Skerrow standby');

  // Controller and all devices start anew.
  await Promise.all([estate.stopController(), estate.stopFleet()]);
  await estate.startController();
  estate.startFleet();
  await estate.allInStep(siteId);
  await isIn('Skerrow accounts');
  const seen = await estate.radiusSeen();
  expect(seen).toContain('Call Check');
  expect(seen).not.toMatch(/tide-bell|lantern/);
});

test('a seat is who a server says it is, live', async () => {
  const { roster } = await estate.siteDraft(siteId);
  const { id: deviceId } = roster.find((each: Json) => each['name'] === 'bm-sw-01');
  const { id } = await estate.draft();
  const asks = (mac: string): Promise<Json> =>
    estate.call('POST', `/api/drafts/${id}/sites/${siteId}/seat-tries`, {
      deviceId,
      target: '198.51.100.81',
      probe: { port: '11', mac, does: 'connect', protocol: 'tcp', number: 443 },
    });
  const known = await asks('0e:c4:50:00:00:01');
  expect(known['live'].text).toMatch(/^From 10\.\d+\.20\.\d+: Stopped by bm-gw-01: Tills, sensors/);
  expect(known['draft']).toBeNull(); // no draft knows what a server says
  expect((await asks('0e:c4:99:00:00:01'))['live']).toMatchObject({ ok: false, text: 'Nobody is let in there.' });
});

test('the controller answers for users that it keeps, a device of theirs lands where its group leads, and others are asked of the next server', async () => {
  const { roster, site, estate: shared } = await estate.siteDraft(siteId);
  const { id: deviceId } = roster.find((each: Json) => each['name'] === 'bm-sw-01');
  const own = { ...shared.radius[0], id: randomUUID(), name: 'This controller', own: true, address: '', purpose: null };
  const secret = randomUUID();
  const accessClass = { id: randomUUID(), name: 'Night print', segment: 'Crew', members: [], groups: ['Printers'] };
  const at = { siteId, deviceId, port: '12' };
  const port = site.ports[deviceId]['12'];
  await estate.edit(
    [
      { type: 'class.add', accessClass: { ...accessClass, reach: { kind: 'sites', siteIds: [siteId] } } },
      { type: 'radius.add', radius: { ...own, secret: { secret }, reach: { kind: 'sites', siteIds: [siteId] } } },
      ...(port.auth === 'mac' ? [] : [{ type: 'port.set', ...at, from: port, to: { ...port, auth: 'mac' } }]),
    ],
    { [secret]: 'kelp and hawser and tern and sound' },
  );
  expect((await estate.rollOut(true)).state).toBe('done');
  const client = async (mac: string): Promise<Json | undefined> =>
    (await estate.call('GET', `/api/sites/${siteId}/clients`)).find((each: Json) => each['mac'] === mac);
  const OTHER = '0e:c4:50:00:00:02';
  const user = { name: OTHER, password: null, groups: ['Printers'], until: null, most: null, off: false, note: '' };
  await estate.upload('/api/users', JSON.stringify([user]));
  const person = { ...user, name: 'brin.vane', password: 'lantern fish 4', groups: ['Printers'] };
  await estate.upload('/api/users', JSON.stringify([person]));
  const { id: draft } = await estate.draft();
  const path = `/api/drafts/${draft}/radius/${own.id}/test`;
  const asked = { deviceId: asker['id'], method: 'eap-ttls', user: 'brin.vane', password: 'lantern fish 4' };
  const tried = await estate.call('POST', path, asked);
  expect(tried).toMatchObject({
    outcome: { kind: 'let-in', accessClass: { name: 'Night print' } },
    exchange: { keys: true, certificate: { trust: 'yes', names: ['skerrow-ferries.radius.internal'] } },
  });
  expect((await estate.call('POST', path, { ...asked, user: 'nobody at all' }))['outcome'].kind).toBe('unkept');
  // Its switch hears of it when it asks again, at the latest when it starts anew.
  await estate.tell({ do: 'power', serial: '5C2-0121-53', on: false });
  await estate.tell({ do: 'power', serial: '5C2-0121-53', on: true });
  const lands = (mac: string, vlan: number, server: string): Promise<unknown> =>
    estate.until(`${mac} is in VLAN ${vlan} by ${server}`, async () => {
      const found = await client(mac);
      return found?.['vlan'] === vlan && found['at'] && found['named']?.server === server && found;
    });
  await lands(OTHER, 10, 'This controller');
  await lands(PRINTER, 20, 'Skerrow accounts');
  const seen = await estate.until('it is told that it came', async () => {
    const { users }: Json = await estate.call('GET', '/api/users');
    return users.find((each: Json) => each['name'] === OTHER && each['lastAt']);
  });
  expect(seen).toMatchObject({ groups: ['Printers'] });

  await Promise.all([estate.stopController(), estate.stopFleet()]);
  await estate.startController();
  estate.startFleet();
  await estate.allInStep(siteId);
  await lands(OTHER, 10, 'This controller');
  const { users }: Json = await estate.call('GET', '/api/users');
  const { id } = users.find((each: Json) => each['name'] === OTHER);
  await estate.call('POST', '/api/users/remove', { ids: [id] });
  await estate.tell({ do: 'power', serial: '5C2-0121-53', on: false });
  await estate.tell({ do: 'power', serial: '5C2-0121-53', on: true });
  await estate.until('it is nowhere', async () => !(await client(OTHER))?.['named']);
});

/** What the controller knows of a client of the site, on the air or on a cable. */
const clientOf = async (mac: string): Promise<Json | undefined> =>
  (await estate.call('GET', `/api/sites/${siteId}/clients`)).find((each: Json) => each['mac'] === mac);

test('crew join an SSID by who they are, a walk as one of them says so before, and one whom no server knows is told why', async () => {
  const { roster } = await estate.siteDraft(siteId);
  const ap = roster.find((each: Json) => each['name'] === 'bm-ap-01');
  const ssid = {
    ...{
      id: randomUUID(),
      name: 'Skerrow Deck',
      security: 'wpa2-wpa3-enterprise',
      passphrase: null,
      bands: ['2.4', '5'],
    },
    ...{ segment: 'Passengers', byClass: true, reach: { kind: 'sites', siteIds: [siteId] } },
  };
  await estate.edit([{ type: 'ssid.add', ssid }]);
  const { id: draftId } = await estate.draft();
  const marn = { method: 'eap-ttls', user: 'marn.ellis', password: 'lantern fish 4' };
  const walks = async (on: string, entry: object): Promise<Json> => {
    const probe = { ssidId: ssid.id, apId: ap['id'], band: '5', knowsPassphrase: false, entry };
    return estate.call('POST', '/api/walks', { siteId, on, ...(on === 'draft' ? { draftId } : {}), probe });
  };
  const drafted = await walks('draft', marn);
  expect(drafted['arrived']).toBe(true);
  // The controller does not keep her: the next server is asked, and names her class.
  const asked = drafted['steps'].filter(({ kind }: Json) => kind === 'asked');
  expect(asked.map(({ title }: Json) => title)).toEqual(['This controller does not know', 'Skerrow accounts lets in']);
  expect(asked[1].exchange).toMatchObject({ end: 'accepted', keys: true, filterIds: ['Crew'] });
  expect(drafted['steps'].find(({ kind }: Json) => kind === 'vlan')).toMatchObject({ title: 'VLAN 10' });

  expect((await estate.rollOut(true)).state).toBe('done');
  const [PHONE, OTHER] = ['0e:c4:11:00:01:43', '0e:c4:11:00:01:76'];
  const looks = (mac: string, enters: object): Promise<void> =>
    estate.tell({ do: 'look-for', mac, ssid: 'Skerrow Deck', enters: { ...marn, believes: 'stand-ins', ...enters } });
  await looks(PHONE, { method: 'peap' });
  await looks(OTHER, { password: 'lantern fish 5' });
  const heard = (): Promise<Json> => estate.call('GET', `/api/sites/${siteId}/air-clients`);
  const joined = await estate.until('the phone is on the air as Marn', async () =>
    (await heard())['clients'].find(({ mac, entered }: Json) => mac === PHONE && entered),
  );
  expect(joined).toMatchObject({ vlan: 10, ssid: 'Skerrow Deck', entered: { user: 'marn.ellis', method: 'peap' } });
  const turnedAway = await estate.until('the other one is turned away', async () =>
    (await heard())['refused'].find(({ mac, why }: Json) => mac === OTHER && why === 'rejected'),
  );
  expect(turnedAway).toMatchObject({ user: 'marn.ellis', server: 'Skerrow accounts' });
  expect((await walks('live', marn))['arrived']).toBe(true);
  expect((await walks('live', { ...marn, password: 'no' }))['steps'].at(-1).title).toBe('Skerrow accounts turns away');
  // A pretend client at the AP is really let in as well.
  const probe = { ssid: 'Skerrow Deck', does: 'ping', entry: marn };
  const path = `/api/drafts/${draftId}/sites/${siteId}/seat-tries`;
  const seat = await estate.call('POST', path, { deviceId: ap['id'], target: '10.12.10.1', probe });
  expect(seat['live']).toMatchObject({ ok: true, text: expect.stringMatching(/^From 10\.12\.10\./) });
  // Keys and passwords are in no journal, and not in what is told.
  const all = JSON.stringify([await heard(), await estate.radiusSeen()]);
  expect(all).not.toMatch(/lantern fish/);
});

test('any port will do: each lands where it belongs whatever port it is plugged into, and leaves nothing behind', async () => {
  const { roster, site } = await estate.siteDraft(siteId);
  const { id: deviceId, serial } = roster.find((each: Json) => each['name'] === 'bm-sw-01');
  const segment = (name: string): string => site.segments.find((each: Json) => each['name'] === name).id;
  const reach = { kind: 'sites', siteIds: [siteId] };
  const duty = {
    ...{ id: randomUUID(), name: 'Any port', untagged: null, tagged: [], auth: '802.1X-mac', hosts: 'phone' },
    ...{ voice: segment('Voice'), guest: segment('Passengers'), rejected: segment('Passengers') },
  };
  const SENSOR = '0e:c4:30:00:00:77';
  const classOf = (name: string, at: string, macs: string[] = []): object => ({
    type: 'class.add',
    accessClass: { id: randomUUID(), name, segment: at, members: macs.map((mac) => ({ mac, name: '' })), reach },
  });
  const PORTS = ['13', '14', '15', '16', '17'];
  await estate.edit([
    { type: 'duty.add', siteId, duty },
    classOf('Desk phones', 'Voice'),
    classOf('Gauges', 'Berth sensors', [SENSOR]),
    ...PORTS.map((port) => {
      const from = site.ports[deviceId]?.[port] ?? null;
      return { type: 'port.set', siteId, deviceId, port, from, to: { dutyId: duty.id } };
    }),
  ]);
  expect((await estate.rollOut(true)).state).toBe('done');
  const [PHONE, LAPTOP, STRANGER] = ['0e:c4:70:00:00:01', '0e:c4:70:00:00:02', '0e:c4:70:00:00:03'];
  const enters = { method: 'eap-ttls', user: 'marn.ellis', password: 'lantern fish 4', believes: 'stand-ins' };
  const things: readonly (readonly [mac: string, vlan: number, more: object])[] = [
    [PRINTER, 20, {}],
    [PHONE, 60, {}],
    [LAPTOP, 10, { enters }],
    [SENSOR, 30, {}],
    [STRANGER, 40, {}],
  ];
  const plug = (mac: string, port: string | null, more: object): Promise<void> =>
    estate.tell({ do: 'plug', mac, at: port === null ? null : `${serial}:${port}`, ...more });
  for (const turn of [0, 2]) {
    for (const [i, [mac, , more]] of things.entries()) await plug(mac, PORTS[(i + turn) % PORTS.length]!, more);
    for (const [i, [mac, vlan]] of things.entries()) {
      const port = PORTS[(i + turn) % PORTS.length]!;
      await estate.until(`${mac} is in VLAN ${vlan} at port ${port}`, async () => {
        const { vlan: at, at: where } = (await clientOf(mac)) ?? {};
        return at === vlan && where?.['port'] === port;
      });
    }
  }
  expect(await clientOf(PHONE)).toMatchObject({ tagged: true, named: { server: 'Skerrow accounts' } });
  expect(await clientOf(LAPTOP)).toMatchObject({ entered: { user: 'marn.ellis' } });
  expect(await clientOf(STRANGER)).toMatchObject({ fell: 'guest' });
  for (const [mac] of things) await plug(mac, null, {});
  for (const [mac] of things)
    await estate.until(`${mac} is at no port any more`, async () => !(await clientOf(mac))?.['at']);
});
