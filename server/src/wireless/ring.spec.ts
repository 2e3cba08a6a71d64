import { randomUUID } from 'node:crypto';
import type { RingKey } from '@iron-lattice/core/document';
import { pairwiseKey, type NewRingKey, type RingView } from '@iron-lattice/core/wireless';
import pg from 'pg';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let oli: TestCaller;
let ap: TestDevice;
let siteId = '';
const [ssidId, elsewhere] = [randomUUID(), randomUUID()];

const fields = { segment: null, accessClass: null, macs: [], most: null, from: null, until: null, note: '' };
const key = (name: string, more: Partial<NewRingKey> = {}): NewRingKey => ({
  ...{ ...fields, name, key: `the key of ${name}` },
  ...more,
});
const add = (keys: readonly unknown[], who = ada, ssid = ssidId) =>
  who.upload(`/api/rings/${ssid}/keys`, JSON.stringify(keys));
const ring = (): Promise<RingView> => ada.get(`/api/rings/${ssidId}`);
const idOf = async (name: string): Promise<string> => (await ring()).keys.find((each) => each.name === name)!.id;
const names = (keys: readonly RingKey[]): string[] => keys.map((each) => each.key.replace('the key of ', '')).sort();

beforeAll(async () => {
  setting = await TestController.start();
  [ada, oli] = [await setting.as('ada'), await setting.as('oli')];
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  siteId = (await ada.post('/api/sites', wish)).id;
  ap = new TestDevice(setting.controller.url, 'AP-7000', 'AP-6', '02:00:00:00:07:00');
  await ap.call();
  await ada.post(`/api/sites/${siteId}/claims`, { serials: [ap.serial] });
  await ap.comply();
  const segment = (name: string, vlan: number) => ({
    type: 'segment.add',
    siteId,
    segment: {
      ...{ id: randomUUID(), name, vlan, subnet: `10.7.${vlan}.0/24`, gateway: `10.7.${vlan}.1`, addresses: null },
    },
  });
  const ssid = {
    ...{ id: ssidId, name: 'Berths', segment: 'Berths', bands: ['5'], security: 'wpa2-psk', passphrase: null },
    ...{ ring: ['Berth 7'], reach: { kind: 'sites', siteIds: [siteId] } },
  };
  const { id, head } = await ada.get('/api/drafts/current');
  const operations = [segment('Berths', 60), segment('Berth 7', 107), { type: 'ssid.add', ssid }];
  await ada.post(`/api/drafts/${id}/operations`, { head, operations });
  await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
  const { document, hash } = await ap.next('document');
  ap.say({ type: 'applied', hash });
  await ap.next('keep');
  ap.say({ type: 'kept', hash });
  expect(document).toMatchObject({
    ssids: [{ security: 'wpa2-psk', vlan: 60, ring: { segments: [{ name: 'Berth 7', vlan: 107 }] } }],
  });
  expect(document).not.toHaveProperty('ssids.0.passphrase');
  const draft = document as { readonly ssids: readonly { readonly id: string }[] };
  expect(draft.ssids[0]!.id).toBe(ssidId);
});
afterAll(async () => {
  ap.hangUp();
  await setting.end();
});

test('an AP is told what changed since the change that it has come to, and what was taken back', async () => {
  expect((await add([key('one', { segment: 'Berth 7', macs: ['02:00:00:00:00:09'] }), key('two')])).status).toBe(201);
  ap.say({ type: 'ring-at', ssid: ssidId, at: 0 });
  const first = await ap.next('ring');
  expect([first.after, names(first.keys), first.gone]).toEqual([0, ['one', 'two'], []]);
  expect(first.keys.find(({ segment }) => segment === 'Berth 7')).toMatchObject({ macs: ['02:00:00:00:00:09'] });
  ap.say({ type: 'ring-at', ssid: ssidId, at: first.at });

  await add([key('three')]);
  const second = await ap.next('ring');
  expect([second.after, names(second.keys)]).toEqual([first.at, ['three']]);
  // While its word on that is not there, the rest waits; then it comes at once.
  const one = await idOf('one');
  await ada.post(`/api/rings/${ssidId}/revoke`, { ids: [one] });
  ap.say({ type: 'ring-at', ssid: ssidId, at: second.at });
  const third = await ap.next('ring');
  expect([third.after, third.keys, third.gone]).toEqual([second.at, [], [one]]);
  ap.say({ type: 'ring-at', ssid: ssidId, at: third.at });

  // One that has a ring of which nobody knows is told all of it anew.
  ap.say({ type: 'ring-at', ssid: ssidId, at: 999_999 });
  expect(names((await ap.next('ring')).keys)).toEqual(['three', 'two']);
  await ada.post(`/api/rings/${ssidId}/restore`, { ids: [one] });
});

test('a key leads to a class, which APs are told by name; it comes back from a list, and is changed to a segment again', async () => {
  ap.say({ type: 'ring-at', ssid: ssidId, at: 0 });
  const { at } = await ap.next('ring');
  ap.say({ type: 'ring-at', ssid: ssidId, at });
  expect((await add([key('diver', { accessClass: 'Divers' })])).status).toBe(201);
  const told = await ap.next('ring');
  expect(told.keys).toEqual([{ id: await idOf('diver'), key: 'the key of diver', accessClass: 'Divers' }]);
  ap.say({ type: 'ring-at', ssid: ssidId, at: told.at });
  const both = await add([key('torn', { accessClass: 'Divers', segment: 'Berth 7' })]);
  expect([both.status, both.json.flaws[0]]).toMatchObject([422, { code: 'ring.class-segment', field: 'accessClass' }]);
  const { json: seen } = await ada.upload(`/api/rings/${ssidId}/key-list`, 'name,key,class\nMole 3,,Divers\n');
  expect(seen.rows[0].good).toMatchObject({ name: 'Mole 3', accessClass: 'Divers', segment: null });
  const url = `/api/rings/${ssidId}/keys/${await idOf('diver')}`;
  const [from, to] = [
    { segment: null, accessClass: 'Divers' },
    { segment: 'Berth 7', accessClass: null },
  ];
  expect((await ada.ask('PATCH', url, { from, to })).status).toBe(204);
  const again = await ap.next('ring');
  expect(again.keys).toEqual([{ id: await idOf('diver'), key: 'the key of diver', segment: 'Berth 7' }]);
  ap.say({ type: 'ring-at', ssid: ssidId, at: again.at });
  await ada.post(`/api/rings/${ssidId}/revoke`, { ids: [await idOf('diver')] });
  const gone = await ap.next('ring');
  ap.say({ type: 'ring-at', ssid: ssidId, at: gone.at });
});

test('a key that leads to a class which nobody has is a finding of the draft, until it is taken back', async () => {
  const found = async (): Promise<string[]> => {
    const { consequences } = await ada.get(`/api/drafts/current/sites/${siteId}`);
    const { findings } = consequences as { findings: { code: string; message: string }[] };
    return findings.flatMap(({ code, message }) => (code === 'wireless.keys-nowhere' ? [message] : []));
  };
  expect(await found()).toEqual([]);
  await add([key('lost diver', { accessClass: 'Nobody' })]);
  ap.say({ type: 'ring-at', ssid: ssidId, at: (await ap.next('ring')).at });
  expect(await found()).toEqual(['One key of “Berths” lets nobody in']);
  await ada.post(`/api/rings/${ssidId}/revoke`, { ids: [await idOf('lost diver')] });
  ap.say({ type: 'ring-at', ssid: ssidId, at: (await ap.next('ring')).at });
  expect(await found()).toEqual([]);
});

test('a device is bound to one key of a ring: another is refused, until the first is over or taken back', async () => {
  const macs = ['02:00:00:00:05:05'];
  await add([key('bound first', { macs })]);
  const again = await add([key('bound again', { macs })]);
  expect([again.status, again.json.type, again.json.title]).toEqual([
    422,
    'about:lattice/ring.refused',
    '02:00:00:00:05:05 is bound to “bound first” already. Take it out there first.',
  ]);
  const both = await add([
    key('pair one', { macs: ['02:00:00:00:05:06'] }),
    key('pair two', { macs: ['02:00:00:00:05:06'] }),
  ]);
  expect(both.json.title).toMatch(/^Row 2: 02:00:00:00:05:06 is bound to “pair one” already\./);
  await add([key('unbound')]);
  const id = await idOf('unbound');
  const url = `/api/rings/${ssidId}/keys/${id}`;
  const moved = await ada.ask('PATCH', url, { from: { macs: [] }, to: { macs } });
  expect(moved.json.title).toContain('is bound to “bound first” already');
  const first = await idOf('bound first');
  await ada.post(`/api/rings/${ssidId}/revoke`, { ids: [first] });
  expect((await ada.ask('PATCH', url, { from: { macs: [] }, to: { macs } })).status).toBe(204);
  const back = await ada.ask('POST', `/api/rings/${ssidId}/restore`, { ids: [first] });
  expect(back.json.title).toMatch(/^“bound first” cannot come back: .* is bound to “unbound”/);
  await ada.post(`/api/rings/${ssidId}/revoke`, { ids: [id] });
});

test('an AP is told no ring that its document does not name, and its word on the keys of others is not taken', async () => {
  expect((await add([key('nobody')], ada, randomUUID())).status).toBe(404);
  // Another ring, which a draft brings to another site.
  const { id, head } = await ada.get('/api/drafts/current');
  const ssid = {
    ...{
      id: elsewhere,
      name: 'Slips',
      segment: 'Crew',
      bands: ['5'],
      security: 'wpa2-psk',
      passphrase: null,
      ring: [],
    },
    reach: {
      kind: 'sites',
      siteIds: [(await ada.get('/api/estate')).sites.find((each: { id: string }) => each.id !== siteId).id],
    },
  };
  await ada.post(`/api/drafts/${id}/operations`, { head, operations: [{ type: 'ssid.add', ssid }] });
  expect((await add([key('kept to itself')], ada, elsewhere)).status).toBe(201);
  ap.say({ type: 'ring-at', ssid: elsewhere, at: 0 });
  ap.say({ type: 'ring-at', ssid: 'no id at all', at: 0 });
  ap.say({ type: 'ring-at', ssid: ssidId, at: 0 });
  expect((await ap.next('ring')).ssid).toBe(ssidId); // the first that is told
  const others: RingView = await ada.get(`/api/rings/${elsewhere}`);
  const gave = (given: string, mac: string) => ({ mac, ssid: 'Berths', vlan: 60, address: null, key: given });
  const clients = [
    gave(others.keys[0]!.id, '0e:00:00:00:00:01'),
    gave('no id', '0e:00:00:00:00:02'),
    gave(await idOf('three'), '0e:00:00:00:00:03'),
  ];
  const rest = { address: '10.7.0.20', uptime: 60, neighbours: [], uplinks: [], leases: [], counters: [] };
  ap.say({ type: 'report', report: { ...rest, clients } });
  const seen = await ada.until<RingView>(`/api/rings/${ssidId}`, ({ keys }) =>
    keys.some(({ name, devices }) => name === 'three' && devices.length > 0),
  );
  expect(seen.keys.flatMap(({ devices }) => devices)).toEqual(['0e:00:00:00:00:03']);
  expect((await ada.get(`/api/rings/${elsewhere}`)).keys[0].devices).toEqual([]);
});

test('keys are made all or none: what is there already, what is wrong, and beyond the most', async () => {
  const before = (await ring()).keys.length;
  const refused = await add([
    key('four'),
    key('TWO'),
    key('five', { key: 'the key of three' }),
    key('six', { key: 'short' }),
  ]);
  expect(refused.status).toBe(422);
  expect(refused.json.flaws).toMatchObject([
    { code: 'ring.key', message: expect.stringMatching(/^Row 4: /) as string },
  ]);
  const taken = await add([key('four'), key('TWO'), key('five', { key: 'the key of three' })]);
  expect(taken.json.flaws).toMatchObject([
    { code: 'ring.name-taken', message: expect.stringMatching(/^Row 2: /) as string },
    { code: 'ring.key-taken', message: expect.stringMatching(/^Row 3: /) as string },
  ]);
  expect((await ring()).keys.length).toBe(before);
  const many = Array.from({ length: 10_000 }, (_, i) => key(`berth ${i}`));
  const full = await add(many);
  expect([full.status, full.json.title]).toEqual([422, expect.stringContaining('10000 keys at most')]);
  expect((await ring()).keys.length).toBe(before);
});

test('a large ring comes frame by frame, whatever was forgotten of it before; none is longer than a frame may be', async () => {
  const before = (await ring()).keys.filter(({ revokedAt }) => revokedAt === null).length;
  const hex = (n: number): string => n.toString(16).padStart(4, '0').replace(/^(..)/, '$1:');
  const macs = (of: number) => Array.from({ length: 100 }, (_, i) => `06:00:${hex(of)}:${hex(i)}`);
  const many = Array.from({ length: 1600 }, (_, i) => key(`slip ${i}`, i < 400 ? { macs: macs(i) } : {}));
  expect((await add(many)).status).toBe(201);
  // Keys that were revoked and forgotten, later than most of these were made.
  const aside = new pg.Client({ connectionString: setting.databaseUrl });
  await aside.connect();
  await aside.query('UPDATE ring SET floor = at');
  await aside.end();
  ap.say({ type: 'ring-at', ssid: ssidId, at: 0 });
  const got = new Set<string>();
  let [at, frames] = [0, 0];
  while (got.size < before + many.length) {
    const frame = await ap.next('ring');
    if (frame.after !== at) continue; // of a change before this one
    expect(JSON.stringify(frame).length).toBeLessThan(1_000_000);
    for (const { id } of frame.keys) got.add(id);
    ({ at } = frame);
    frames++;
    ap.say({ type: 'ring-at', ssid: ssidId, at });
  }
  expect(frames).toBeGreaterThan(2);
  await ada.until<RingView>(`/api/rings/${ssidId}`, ({ aps, told }) => aps === 1 && told === 1);
  const { keys } = await ring();
  const ids = keys.filter(({ name }) => name.startsWith('slip ')).map(({ id }) => id);
  await ada.post(`/api/rings/${ssidId}/revoke`, { ids });
});

test('what was changed meanwhile is not written over, and another key is another’s', async () => {
  const id = await idOf('two');
  const change = (from: object, to: object) => ada.ask('PATCH', `/api/rings/${ssidId}/keys/${id}`, { from, to });
  expect((await change({ note: '' }, { note: 'by the crane', most: 1 })).status).toBeLessThan(300);
  expect((await change({ note: '' }, { note: 'by the slip' })).json.type).toMatch(/ring\.changed$/);
  expect((await change({}, { key: 'the key of three' })).json.flaws[0].code).toBe('ring.key-taken');
  expect((await change({}, { until: '2026-02-30' })).json.flaws[0].code).toBe('ring.moment');
  expect((await change({}, { key: 'a key that is new' })).status).toBeLessThan(300);
  const { [id]: shown } = await ada.post(`/api/rings/${ssidId}/reveal`, { ids: [id] });
  expect(shown).toBe('a key that is new');
});

test('who may not change anything sees whose keys there are, and none of them', async () => {
  const view: RingView = await oli.get(`/api/rings/${ssidId}`);
  expect(view.keys.length).toBeGreaterThan(0);
  expect(JSON.stringify(view)).not.toContain('the key of');
  const ids = [view.keys[0]!.id];
  const asked = [
    add([key('mine')], oli),
    oli.ask('POST', `/api/rings/${ssidId}/reveal`, { ids }),
    oli.ask('POST', `/api/rings/${ssidId}/revoke`, { ids }),
    oli.ask('GET', `/api/rings/${ssidId}/psk-file?siteId=${siteId}`),
  ];
  expect((await Promise.all(asked)).map(({ status }) => status)).toEqual([403, 403, 403, 403]);
});

test('the keys go out for hostapd with the VLAN of each, by master keys that are worked out once', async () => {
  const read = async (): Promise<string> =>
    (await ada.fetch('GET', `/api/rings/${ssidId}/psk-file?siteId=${siteId}`)).text();
  await ada.until('/api/revisions', (all: unknown[]) => all.length > 0);
  const text = await read();
  const master = pairwiseKey('the key of one', new TextEncoder().encode('Berths'));
  expect(text).toContain(`vlanid=107 02:00:00:00:00:09 ${master}`);
  expect(text).toMatch(/keyid=k\d 00:00:00:00:00:00 [0-9a-f]{64}\n/);
  expect(await read()).toBe(text);
  expect((await ring()).live).toEqual(['Berths', 'Berth 7']);
});

test('master keys are worked out by themselves once the SSID is live, and how far that is can be seen', async () => {
  await ada.until('/api/revisions', (all: unknown[]) => all.length > 0);
  const right = async (): Promise<number> => (await ring()).keys.filter(({ revokedAt }) => revokedAt === null).length;
  const many = Array.from({ length: 120 }, (_, i) => key(`of many ${i}`));
  expect((await add(many)).status).toBe(201);
  const count = await right();
  expect(count).toBeGreaterThan(120);
  await ada.until(`/api/rings/${ssidId}`, (view: RingView) => view.masters === count);
  // A key that is another has another master key; one that is taken back counts no more.
  const id = await idOf('of many 7');
  await ada.ask('PATCH', `/api/rings/${ssidId}/keys/${id}`, { from: {}, to: { key: 'quite another key' } });
  await ada.until(`/api/rings/${ssidId}`, (view: RingView) => view.masters === count);
  const text = await (await ada.fetch('GET', `/api/rings/${ssidId}/psk-file?siteId=${siteId}`)).text();
  expect(text).toContain(pairwiseKey('quite another key', new TextEncoder().encode('Berths')));
  await ada.post(`/api/rings/${ssidId}/revoke`, { ids: [id] });
  await ada.until(`/api/rings/${ssidId}`, (view: RingView) => view.masters === count - 1);
});

test('an AP is told no keys of a ring whose keys servers name; those that are kept here stay, and are told again after', async () => {
  const rollsOut = async (from: 'servers' | null, to: 'servers' | null): Promise<void> => {
    const { id, head } = await ada.get('/api/drafts/current');
    const operations = [{ type: 'ssid.set', ssidId, from: { keysAt: from }, to: { keysAt: to } }];
    await ada.post(`/api/drafts/${id}/operations`, { head, operations });
    const rollout = await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
    await ap.comply();
    await ada.until(`/api/rollouts/${rollout.id}`, ({ endedAt }: { endedAt: string | null }) => endedAt !== null);
  };
  const before = (await ring()).keys.length;
  await rollsOut(null, 'servers');
  expect(await ring()).toMatchObject({ atServers: true, aps: 0, told: 0 });
  ap.say({ type: 'ring-at', ssid: ssidId, at: 0 });
  expect((await add([key('while they are asked')])).status).toBe(201);
  expect((await ring()).keys).toHaveLength(before + 1);
  await rollsOut('servers', null);
  ap.say({ type: 'ring-at', ssid: ssidId, at: 0 });
  // Nothing was told meanwhile: all of it comes from its beginning, once, and ends with what was made then.
  let frame = await ap.next('ring');
  expect(frame.after).toBe(0);
  while (!names(frame.keys).includes('while they are asked')) {
    ap.say({ type: 'ring-at', ssid: ssidId, at: frame.at });
    const next = await ap.next('ring');
    expect(next.after).toBe(frame.at);
    frame = next;
  }
  expect((await ring()).atServers).toBe(false);
});
