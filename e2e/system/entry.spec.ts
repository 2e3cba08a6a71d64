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
