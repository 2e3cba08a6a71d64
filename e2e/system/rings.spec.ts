import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Estate } from './estate';

let estate: Estate;
let siteId = '';
const ssidId = randomUUID();
beforeAll(async () => {
  estate = await Estate.start();
  await estate.signIn();
  await estate.allInStep();
  siteId = (await estate.site('Brinmouth')).id;
});
afterAll(() => estate.end());

const NAME = 'Skerrow Berths';
type Json = Record<string, any>;
const key = (name: string, text: string, more: object = {}): object => ({
  ...{ name, key: text, segment: null, accessClass: null, macs: [], most: null, from: null, until: null, note: '' },
  ...more,
});
const add = (...keys: object[]): Promise<Json> => estate.upload(`/api/rings/${ssidId}/keys`, JSON.stringify(keys));
const ring = (): Promise<Json> => estate.call('GET', `/api/rings/${ssidId}`);
const named = async (name: string): Promise<Json> => (await ring())['keys'].find((each: Json) => each['name'] === name);

/** A client as an AP has it on the ring's SSID, or why it has not. */
async function has(mac: string): Promise<Json | undefined> {
  const { clients, refused } = await estate.call('GET', `/api/sites/${siteId}/air-clients`);
  return [...clients, ...refused].find((each: Json) => each.mac === mac && each.ssid === NAME);
}
const joins = (mac: string, vlan: number): Promise<unknown> =>
  estate.until(`${mac} is in VLAN ${vlan}`, async () => (await has(mac))?.['vlan'] === vlan);
const isRefused = (mac: string, why: string): Promise<unknown> =>
  estate.until(`${mac} is refused: ${why}`, async () => (await has(mac))?.['why'] === why);

/** Every AP that asks for the ring’s keys has all that was said of them. */
const allTold = (): Promise<unknown> =>
  estate.until('all APs have the ring', async () => {
    const { aps, told } = await ring();
    return aps > 0 && told === aps;
  });

test('each key of a ring leads to its segment, acts at once, and is right no more when it is taken back', async () => {
  const { site } = await estate.siteDraft(siteId);
  const segments = [...site.segments].sort((a: Json, b: Json) => a['vlan'] - b['vlan']);
  const [own, other] = segments.filter((each: Json) => each['id'] !== site.managementId);
  const ssid = {
    ...{ id: ssidId, name: NAME, security: 'wpa2-psk', passphrase: null, ring: [other.name] },
    ...{ bands: ['2.4', '5'], segment: own.name, reach: { kind: 'sites', siteIds: [siteId] } },
  };
  await estate.edit([{ type: 'ssid.add', ssid }]);
  // Made before the SSID is on the air: with it they are right.
  await add(key('Berth 1', 'first berth of all', { segment: other.name }), key('Harbour master', 'keeps all the keys'));
  expect((await estate.rollOut(true)).state).toBe('done');

  const macs = (await estate.call('GET', `/api/sites/${siteId}/air-clients`)).clients.map((each: Json) => each['mac']);
  const [one, two, three] = macs as [string, string, string];
  await estate.tell({ do: 'look-for', mac: one, ssid: NAME, passphrase: 'first berth of all' });
  await estate.tell({ do: 'look-for', mac: two, ssid: NAME, passphrase: 'keeps all the keys' });
  await estate.tell({ do: 'look-for', mac: three, ssid: NAME, passphrase: 'second berth of all' });
  await joins(one, other.vlan);
  await joins(two, own.vlan);
  await isRefused(three, 'passphrase');
  expect((await named('Berth 1'))['now']).toEqual([one]);

  // One more acts at once, for the device that it is bound to alone.
  await add(key('Berth 2', 'second berth of all', { segment: other.name, macs: [two] }));
  await isRefused(three, 'bound');
  const { id } = await named('Berth 2');
  const change = (from: object, to: object): Promise<Json> =>
    estate.call('PATCH', `/api/rings/${ssidId}/keys/${id}`, { from, to });
  await change({ macs: [two] }, { macs: [], until: '2020-01-01' });
  await isRefused(three, 'over');
  await change({ until: '2020-01-01' }, { until: null, segment: 'Nowhere at all' });
  await isRefused(three, 'nowhere');
  await change({ segment: 'Nowhere at all' }, { segment: other.name });
  await joins(three, other.vlan);

  // As many devices as may, wherever they are.
  await change({ most: null }, { most: 1 });
  await allTold();
  await estate.tell({ do: 'look-for', mac: two, ssid: NAME, passphrase: 'second berth of all' });
  await isRefused(two, 'devices');
  await joins(three, other.vlan);

  // Taken back: gone at once; brought back: there again.
  await estate.call('POST', `/api/rings/${ssidId}/revoke`, { ids: [id] });
  await isRefused(three, 'passphrase');
  await estate.call('POST', `/api/rings/${ssidId}/restore`, { ids: [id] });
  await joins(three, other.vlan);

  // Neither end forgets: the controller starts anew, and then every device.
  await estate.stopController();
  await estate.startController();
  await allTold();
  await estate.stopFleet();
  estate.startFleet();
  await estate.allInStep(siteId);
  await estate.until('the devices are there', () =>
    estate.tell({ do: 'look-for', mac: one, ssid: NAME, passphrase: 'first berth of all' }).then(
      () => true,
      () => false,
    ),
  );
  await joins(one, other.vlan);
});

test('a key may lead to an access class, which says segment and limits; whom nothing gives one has that of everybody else', async () => {
  const { site } = await estate.siteDraft(siteId);
  const segments = [...site.segments].filter((each: Json) => each['id'] !== site.managementId);
  const [own, , third, fourth] = segments.sort((a: Json, b: Json) => a['vlan'] - b['vlan']);
  const [divers, visitors] = [randomUUID(), randomUUID()];
  const accessClass = (id: string, name: string, segment: string, more: object = {}) => ({
    type: 'class.add',
    accessClass: { id, name, segment, members: [], reach: { kind: 'sites', siteIds: [siteId] }, ...more },
  });
  await estate.edit([
    accessClass(divers, 'Divers', third.name, { rate: { down: 5000 } }),
    { type: 'ssid.set', ssidId, from: { byClass: null }, to: { byClass: true } },
  ]);
  await add(
    key('Diver 1', 'the bell is rung twice', { accessClass: 'divers' }),
    key('Lost', 'the anchor is lost', { accessClass: 'Nobody' }),
  );
  expect((await estate.rollOut(true)).state).toBe('done');
  const [{ mac }, other, master] = (await estate.call('GET', `/api/sites/${siteId}/air-clients`)).clients;
  await estate.tell({ do: 'look-for', mac, ssid: NAME, passphrase: 'the bell is rung twice' });
  await joins(mac, third.vlan);
  const classOf = async (of: string): Promise<unknown> =>
    (await estate.call('GET', `/api/sites/${siteId}/clients`)).find((each: Json) => each['mac'] === of)?.classId;
  expect(await classOf(mac)).toBe(divers);
  await estate.tell({ do: 'look-for', mac: other.mac, ssid: NAME, passphrase: 'the anchor is lost' });
  await isRefused(other.mac, 'nowhere');
  // Who walks with it is told where it leads, and by what.
  const { roster } = await estate.siteDraft(siteId);
  const ap = roster.find((each: Json) => each['name'] === 'bm-ap-01');
  const probe = { ssidId, apId: ap.id, band: '5', knowsPassphrase: true, key: (await named('Diver 1'))['id'] };
  const { steps } = await estate.call('POST', '/api/walks', { siteId, on: 'live', probe });
  expect(steps.map(({ detail }: Json) => detail)).toContain(
    `The key of Diver 1 leads to the class “Divers”, which joins VLAN ${third.vlan}.`,
  );
  // As a file for an AP of another make it has that VLAN too, and what leads nowhere is left out.
  const file = await (await estate.fetch('GET', `/api/rings/${ssidId}/psk-file?siteId=${siteId}`)).text();
  expect(file).toContain(`vlanid=${third.vlan}`);
  expect(file).not.toContain('Lost');

  // A key that says nothing leads to the SSID’s own segment, until there is a class for everybody else.
  await estate.tell({ do: 'look-for', mac: master.mac, ssid: NAME, passphrase: 'keeps all the keys' });
  await joins(master.mac, own.vlan);
  await estate.edit([accessClass(visitors, 'Visitors', fourth.name, { otherwise: true })]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await joins(master.mac, fourth.vlan);
  expect(await classOf(master.mac)).toBe(visitors);
  await joins(mac, third.vlan);
  await estate.edit([
    { type: 'class.remove', classId: visitors },
    { type: 'class.remove', classId: divers },
    { type: 'ssid.set', ssidId, from: { byClass: true }, to: { byClass: null } },
  ]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await isRefused(mac, 'nowhere');
  await joins(master.mac, own.vlan);
});

test('a key’s client gets an address in its own segment, over cables and in a tunnel that no switch carries it for', async () => {
  const [client] = (await estate.call('GET', `/api/sites/${siteId}/air-clients`)).clients;
  const draft = await estate.draft();
  const proposal = await estate.call('GET', `/api/drafts/${draft.id}/sites/${siteId}/segment-proposal?vlan=109`);
  const segment = { id: randomUUID(), name: 'Berth 9', vlan: 109, ...proposal };
  const { site, estate: shared } = await estate.siteDraft(siteId);
  const { ring: before } = shared.ssids.find((each: Json) => each['id'] === ssidId);
  await estate.edit([
    { type: 'segment.add', siteId, segment },
    { type: 'ssid.set', ssidId, from: { ring: before }, to: { ring: [...before, 'Berth 9'] } },
  ]);
  await add(key('Berth 9', 'ninth berth of all', { segment: 'Berth 9' }));
  // Where switches do not carry it yet it is said, and mended.
  const stops = (await estate.siteDraft(siteId)).consequences.findings.filter(
    (each: Json) => each['code'] === 'lattice.not-carried' && each['message'].startsWith('Berth 9 stops'),
  );
  const mends = new Set<string>(
    stops.flatMap((each: Json) => each['mend'].operations.map((operation: object) => JSON.stringify(operation))),
  );
  expect(mends.size).toBeGreaterThan(0);
  await estate.edit([...mends].map((text) => JSON.parse(text) as Json));
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.tell({ do: 'look-for', mac: client.mac, ssid: NAME, passphrase: 'ninth berth of all' });
  const inside = new RegExp(`^${proposal.subnet.replace(/\.0\/24$/, '').replaceAll('.', '\\.')}\\.\\d+$`);
  const hasAddress = (): Promise<Json> =>
    estate.until('it has an address of Berth 9', async () => {
      const found = await has(client.mac);
      return found?.['vlan'] === 109 && inside.test(found['address']) && found;
    });
  await hasAddress();

  // A pretend client that gives the key is let in as that client is, and one without is not.
  const nine = (await named('Berth 9'))['id'];
  const { roster: boxes } = await estate.siteDraft(siteId);
  const ap = boxes.find((each: Json) => each['model'].startsWith('AP'));
  const tries = async (given: object): Promise<Json> => {
    const { id } = await estate.draft();
    const probe = { ssid: NAME, does: 'ping', ...given };
    const body = { deviceId: ap.id, probe, target: '198.51.100.80' };
    return estate.call('POST', `/api/drafts/${id}/sites/${siteId}/seat-tries`, body);
  };
  const seated = await tries({ key: nine });
  expect(seated).toMatchObject({ live: { ok: true }, draft: { passes: true }, differs: false });
  expect(seated['live'].text).toContain(`From ${proposal.subnet.replace(/\.0\/24$/, '.')}`);
  expect(await tries({})).toMatchObject({
    live: { ok: false, text: `“${NAME}” asks for a key of its ring.` },
    draft: { passes: false },
    differs: false,
  });

  const put = (tunnel: string | null, from: string | null): Promise<unknown> =>
    estate.edit([{ type: 'ssid.set', ssidId, from: { tunnel: from }, to: { tunnel } }]);
  await put('gateway', null);
  const { roster, draft: told } = await estate.siteDraft(siteId);
  const aps = roster.filter((each: Json) => each['model'].startsWith('AP'));
  // Each AP's port carries it no more, and no port of anything carries it anew.
  const [{ changes, differences }] = await estate.call('GET', `/api/drafts/${told.id}/reviews?sites=${siteId}`);
  const lines = changes.flatMap((each: Json) => differences[each['told']].lines);
  const tags = lines.filter(
    (each: Json) => each['path'].at(-1) === 'tagged' && [each['before'], each['after']].includes('109'),
  );
  expect(new Set(tags.map((each: Json) => each['op']))).toEqual(new Set(['remove']));
  expect(tags.length).toBeGreaterThanOrEqual(aps.length);
  expect((await estate.rollOut(true)).state).toBe('done');
  const answering = (wanted: boolean): Promise<unknown> =>
    estate.until(`tunnels answer: ${wanted}`, async () => {
      const devices = await estate.call('GET', `/api/sites/${siteId}/devices`);
      const ends = devices.flatMap((each: Json) => (each['tunnel'] ? [each['tunnel']] : []));
      return ends.length === aps.length && ends.every((each: Json) => each['answers'] === wanted);
    });
  await answering(true);
  await hasAddress();

  // Rules that stop its packets are found before, and the walk says where it ends after.
  const home = site.segments.find((each: Json) => each['id'] === site.managementId);
  const rule = { id: randomUUID(), verdict: 'deny', services: [{ protocol: 47 }], to: [{ kind: 'gateway' }] };
  const from = [{ kind: 'segment', name: home.name }];
  await estate.edit([{ type: 'rule.add', siteId, rules: [{ ...rule, from }], behind: null }]);
  const { findings } = (await estate.siteDraft(siteId)).consequences;
  expect(findings.map((each: Json) => each['code'])).toContain('wireless.tunnel-stopped');
  expect((await estate.rollOut(true)).state).toBe('done');
  await answering(false);
  const asked = { ssidId, apId: aps[0].id, band: '5', knowsPassphrase: true };
  const key9 = await named('Berth 9');
  const walked = await estate.call('POST', '/api/walks', { siteId, on: 'live', probe: { ...asked, key: key9['id'] } });
  expect(walked.steps.at(-1)).toMatchObject({ passed: false, title: 'bm-gw-01 stops the tunnel' });
});

test('a ring whose keys a RADIUS server names: who gives one joins where that leads, and the walk shows what was said', async () => {
  const GUEST = '0e:c4:11:00:01:ed';
  const { site, estate: shared, roster } = await estate.siteDraft(siteId);
  const was = shared.ssids.find((each: Json) => each['id'] === ssidId);
  const vlanOf = (name: string): number => site.segments.find((each: Json) => each['name'] === name).vlan;
  const findings = async (): Promise<Json[]> => (await estate.siteDraft(siteId)).consequences.findings;
  await estate.edit([
    { type: 'ssid.set', ssidId, from: { tunnel: 'gateway' }, to: { tunnel: null } },
    { type: 'ssid.set', ssidId, from: { ring: was.ring, keysAt: null }, to: { ring: ['Crew'], keysAt: 'servers' } },
  ]);
  const [server] = shared.radius;
  const [first, ...others] = shared.radius.filter((each: Json) => !each['own']);
  const macs = (each: Json, to: string | null): object => ({
    ...{ type: 'radius.set', radiusId: each['id'], from: { macs: each['macs'] }, to: { macs: to } },
  });
  // Where none is asked about MAC addresses it is said.
  await estate.edit([first, ...others].filter((each) => each['macs'] !== null).map((each) => macs(each, null)));
  expect((await findings()).map((each) => each['code'])).toContain('entry.nobody-asked');
  await estate.edit([macs({ ...first, macs: null }, 'none_lower')]);
  expect((await findings()).map((each) => each['code'])).not.toContain('entry.nobody-asked');
  expect(server).toBeDefined();
  expect((await estate.rollOut(true)).state).toBe('done');
  // No AP has keys of the ring any more that are kept here.
  await estate.until('no AP is told keys', async () => (await ring())['aps'] === 0);
  expect((await ring())['atServers']).toBe(true);

  await estate.tell({ do: 'look-for', mac: GUEST, ssid: NAME, passphrase: 'mooring line 29' });
  await joins(GUEST, vlanOf('Crew'));
  expect(await has(GUEST)).toMatchObject({ keyedBy: first.name });
  await estate.tell({ do: 'look-for', mac: GUEST, ssid: NAME, passphrase: 'spare fender 30' });
  await joins(GUEST, vlanOf(was.segment));
  await estate.tell({ do: 'look-for', mac: GUEST, ssid: NAME, passphrase: 'ninth berth of all' });
  await isRefused(GUEST, 'passphrase');

  const ap = roster.find((each: Json) => each['name'] === 'bm-ap-01');
  const probe = { ssidId, apId: ap.id, band: '5', knowsPassphrase: true, mac: GUEST };
  const { id: draftId } = await estate.draft();
  const walked = (gives: string): Promise<Json> =>
    estate.call('POST', '/api/walks', { siteId, on: 'draft', draftId, probe: { ...probe, gives } });
  const through = await walked('mooring line 29');
  expect(through['arrived']).toBe(true);
  expect(through['steps'].map(({ title }: Json) => title)).toEqual(
    expect.arrayContaining(['Gives a key', `${first.name} lets in`, `VLAN ${vlanOf('Crew')}`]),
  );
  const asked = through['steps'].find((each: Json) => each['exchange']).exchange;
  expect(asked.packets.at(-1).attributes).toContainEqual({ name: 'Tunnel-Password', value: '(not shown)' });
  expect(JSON.stringify(through)).not.toMatch(/mooring|fender/);
  // Tried by itself it says the same: keys, and where each leads here.
  const test = { deviceId: ap.id, method: 'mac', user: GUEST, password: '' };
  const { outcome } = await estate.call('POST', `/api/drafts/${draftId}/radius/${first.id}/test`, test);
  expect(outcome.kind).toBe('names-keys');
  expect(outcome.words).toContain(`one to Crew, VLAN ${vlanOf('Crew')}; one to the SSID’s own segment`);
  expect((await walked('another key')).steps.at(-1).detail).toContain('names 2 keys, and none of them');
  const tried = await estate.call('POST', `/api/drafts/${draftId}/sites/${siteId}/seat-tries`, {
    ...{ deviceId: ap.id, target: '198.51.100.80' },
    probe: { ssid: NAME, mac: GUEST, does: 'ping', gives: 'mooring line 29' },
  });
  expect(tried).toMatchObject({ live: { ok: true } });

  // A class that is named with a key counts once classes do.
  const DECKHAND = '0e:c4:11:00:01:fe';
  await estate.tell({ do: 'look-for', mac: DECKHAND, ssid: NAME, passphrase: 'boat hook 31' });
  await joins(DECKHAND, vlanOf(was.segment));
  const crew = {
    id: randomUUID(),
    name: 'Crew',
    segment: 'Crew',
    members: [],
    reach: { kind: 'sites', siteIds: [siteId] },
  };
  await estate.edit([
    { type: 'class.add', accessClass: crew },
    { type: 'ssid.set', ssidId, from: { byClass: null }, to: { byClass: true } },
  ]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await joins(DECKHAND, vlanOf(crew.segment));
  expect(await has(DECKHAND)).toMatchObject({ keyedBy: first.name, classId: crew.id });
  await estate.tell({ do: 'look-for', mac: GUEST, ssid: NAME, passphrase: 'spare fender 30' });
  await joins(GUEST, vlanOf(was.segment));
  const hand = { ...probe, mac: DECKHAND, gives: 'boat hook 31' };
  const { steps } = await estate.call('POST', '/api/walks', { siteId, on: 'live', probe: hand });
  expect(steps.map(({ detail }: Json) => detail)).toContain(
    `The key that “${first.name}” names leads to the class “Crew”, which joins VLAN ${vlanOf(crew.segment)}.`,
  );
});
