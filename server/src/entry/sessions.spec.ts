import { randomUUID } from 'node:crypto';
import { USUAL_SERVER, type Operation } from '@iron-lattice/core/intent';
import type { Report } from '@iron-lattice/core/line';
import { answerChange, octetsOfText, readChange, type ReadChange } from '@iron-lattice/core/radius';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

const SECRET = 'tide tables on the harbour wall';
const [MARN, LISTED] = ['0e:c4:60:00:00:02', '0e:c4:60:00:00:08'];
const ids = { ssid: randomUUID(), crew: randomUUID(), draft: randomUUID(), secret: randomUUID() };
let setting: TestController;
let ada: TestCaller;
let ap: TestDevice;
let siteId = '';
let apId = '';
let name = '';

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
  ap = new TestDevice(setting.controller.url, 'SESS-01', 'AP-6', '02:00:00:08:00:01');
  await ap.call();
  await ada.until('/api/calling', (list: unknown[]) => list.length === 1);
  apId = (await ada.post(`/api/sites/${siteId}/claims`, { serials: [ap.serial] })).claimed[0].id;
  await ap.comply();
  const reach = { kind: 'estate' } as const;
  const ssid = {
    id: ids.ssid,
    name: 'Deck',
    security: 'wpa3-enterprise',
    passphrase: null,
    bands: ['5'],
    segment: 'Crew',
  };
  const radius = {
    ...USUAL_SERVER,
    ...{ id: randomUUID(), name: 'Quay', address: 'quay.test.example', secret: { secret: ids.secret }, reach },
  };
  const operations = [
    { type: 'radius.add', radius },
    { type: 'class.add', accessClass: { id: ids.crew, name: 'Deckhands', segment: 'Crew', members: [], reach } },
    { type: 'ssid.add', ssid: { ...ssid, byClass: true, reach } },
  ] as Operation[];
  const { id, head } = await ada.get('/api/drafts/current');
  await ada.post(`/api/drafts/${id}/operations`, { head, operations, secrets: { [ids.secret]: SECRET } });
  const rollout = await ada.post('/api/rollouts', { draftId: id, despiteErrors: true });
  await ap.comply();
  await ada.until(`/api/rollouts/${rollout.id}`, ({ endedAt }: { endedAt: string | null }) => endedAt !== null);
  name = (await ada.get(`/api/sites/${siteId}/devices`))[0].name;
  // Another class that no device was told of yet.
  const after = await ada.get('/api/drafts/current');
  await ada.post(`/api/drafts/${after.id}/operations`, {
    head: after.head,
    operations: [
      { type: 'class.add', accessClass: { id: ids.draft, name: 'New', segment: 'Crew', members: [], reach } },
    ],
  });
});
afterAll(async () => {
  ap.hangUp();
  await setting.end();
});

const report = (taken?: Report['taken'], refused?: Report['refused'], more: Report['clients'] = []): void =>
  ap.say({
    type: 'report',
    report: {
      ...{ address: null, uptime: 60, neighbours: [], uplinks: [], leases: [], counters: [] },
      clients: [
        {
          ...{ mac: MARN, ssid: 'Deck', vlan: 10, address: '10.1.10.20' },
          entered: { user: 'marn.ellis', method: 'peap', server: 'Quay' },
        },
        { mac: LISTED, ssid: 'Deck', vlan: 10, address: '10.1.10.21' },
        ...more,
      ],
      ...(taken ? { taken } : {}),
      ...(refused ? { refused } : {}),
    },
  });
const asks = (body: object, as = ada) => as.ask('POST', `/api/devices/${apId}/session-changes`, body);
/** What the device makes of the next packet that it is given. */
async function hears(answer: (read: ReadChange) => Uint8Array | null): Promise<ReadChange> {
  const { id, name: command, octets } = (await ap.next('command')) as { id: string; name: string; octets?: string };
  expect(command).toBe('session');
  const servers = [{ name: 'Quay', secret: octetsOfText(SECRET) }];
  const bytes = new Uint8Array(Buffer.from(octets!, 'base64'));
  const read = readChange(bytes, servers, { name, addresses: [] }, Date.now() / 1000);
  const said = answer(read);
  ap.say({
    ...{ type: 'answer', id, ok: said !== null, text: said ? '' : 'It says nothing.' },
    ...(said ? { octets: Buffer.from(said).toString('base64') } : {}),
  });
  return read;
}
const change = (read: ReadChange) => {
  if (!read.ok) throw new Error(read.why);
  return read.change;
};

test('a session is changed and ended in the name of the server that let it in, and what is answered is told', async () => {
  report();
  await ada.until(`/api/sites/${siteId}/clients`, (list: unknown[]) => list.length === 2);
  const changed = asks({ mac: MARN, classId: ids.crew });
  expect(change(await hears((read) => answerChange(change(read))))).toMatchObject({
    ...{ wants: 'class', filterIds: ['Deckhands'], session: { user: 'marn.ellis', mac: MARN } },
  });
  expect(await changed).toMatchObject({ status: 200, json: { ok: true, server: 'Quay', words: '' } });
  expect(JSON.stringify((await changed).json)).not.toContain(SECRET);

  const ended = asks({ mac: MARN, classId: null });
  const read = await hears((each) => answerChange(change(each), { cause: 'no-session', words: 'Nobody.' }));
  expect(change(read).wants).toBe('end');
  expect((await ended).json).toMatchObject({ ok: false, words: 'Nobody. (Session Context Not Found)' });

  const silent = asks({ mac: MARN, classId: null });
  await hears(() => null);
  expect((await silent).json).toMatchObject({ ok: false, words: 'It says nothing.' });

  // Whom no server let in is sent away by a plain word, and has the class that its address has.
  const plain = asks({ mac: LISTED, classId: null });
  const command = await ap.next('command');
  expect(command).toMatchObject({ name: 'disconnect', target: LISTED });
  ap.say({ type: 'answer', id: command.id, ok: true, text: '' });
  expect((await plain).json).toMatchObject({ ok: true, server: null, packets: [] });
  expect((await asks({ mac: LISTED, classId: ids.crew })).json.title).toMatch(/class is by its MAC address/);
});

test('a class that a server names and nobody has is a finding, until the draft has it', async () => {
  const turnedAway = { mac: '0e:c4:60:00:00:09', ssid: 'Deck', why: 'class' as const, since: Date.now() };
  report(undefined, [{ ...turnedAway, user: 'otto.line', server: 'Quay', said: 'Gulls' }]);
  const path = `/api/drafts/current/sites/${siteId}`;
  type Told = { consequences: { findings: { code: string; message: string }[] } };
  const found = ({ consequences }: Told) => consequences.findings.filter(({ code }) => code === 'entry.unknown-class');
  await ada.until(path, (told: Told) => found(told).length === 1);
  expect(found(await ada.get(path))[0]!.message).toMatch(/^“Quay” names the class “Gulls”/);
  report();
  await ada.until(path, (told: Told) => found(told).length === 0);
  // Who was turned away stands among the failures of the last days, once, however often it is said.
  report(undefined, [{ ...turnedAway, user: 'otto.line', server: 'Quay', said: 'Gulls' }]);
  report(undefined, [{ ...turnedAway, since: turnedAway.since + 1, user: 'otto.line', server: 'Quay', said: 'Gulls' }]);
  const failures = `/api/sites/${siteId}/entry-failures`;
  const told = await ada.until(failures, (list: unknown[]) => list.length === 2);
  expect(told[0]).toMatchObject({ why: 'class', user: 'otto.line', said: 'Gulls', deviceName: name, ssid: 'Deck' });
  report();
});

test('a method that a server does not take is a finding while clients are turned away for it, and so is PAP beside others', async () => {
  const path = `/api/drafts/current/sites/${siteId}`;
  type Told = { consequences: { findings: { code: string; message: string }[] } };
  const found = ({ consequences }: Told): string[] =>
    consequences.findings
      .filter(({ code }) => ['entry.method-not-offered', 'entry.pap-unneeded'].includes(code))
      .map(({ message }) => message)
      .sort();
  const turnedAway = { mac: '0e:c4:60:00:00:09', ssid: 'Deck', why: 'method' as const, since: Date.now() };
  report(undefined, [{ ...turnedAway, user: 'otto.line', server: 'Quay' }]);
  await ada.until(path, (told: Told) => found(told).length === 1);
  expect(found(await ada.get(path))[0]).toMatch(/^“Quay” does not take the method of one client at/);
  // One comes by PEAP: that another hands over a password is not needed.
  const entered = { user: 'otto.line', method: 'eap-ttls' as const, server: 'Quay' };
  report(undefined, undefined, [{ mac: turnedAway.mac, ssid: 'Deck', vlan: 10, address: null, entered }]);
  await ada.until(path, (told: Told) => found(told)[0]?.includes('(PAP)') === true);
  expect(found(await ada.get(path))).toEqual([expect.stringMatching(/^“Quay” is told the password of one client at/)]);
  report();
  await ada.until(path, (told: Told) => found(told).length === 0);
});

test('nobody is changed who is not there, into what no device was told, or by who only looks', async () => {
  const gone = await asks({ mac: '0e:c4:60:00:00:77', classId: null });
  expect(gone).toMatchObject({ status: 422, json: { title: expect.stringMatching(/is not at/) as string } });
  expect((await asks({ mac: MARN, classId: ids.draft })).status).toBe(404);
  expect((await asks({ mac: 'x', classId: null })).status).toBe(400);
  expect((await asks({ mac: MARN, classId: null }, await setting.as('oli'))).status).toBe(403);
});

test('what clients took is told as their devices counted it last, and is no news of a device', async () => {
  report([{ mac: MARN, down: 2_500_000, up: 90_000 }]);
  const path = `/api/sites/${siteId}/taken`;
  const first = await ada.until(path, (list: unknown[]) => list.length === 1);
  expect(first).toEqual([{ deviceId: apId, mac: MARN, down: 2_500_000, up: 90_000 }]);
  const kept = async (): Promise<string> => {
    const [rows] = await setting.controller.database.query(`SELECT report::text AS r FROM device WHERE id = '${apId}'`);
    return (rows as { r: string }[])[0]!.r;
  };
  expect(await kept()).toContain(MARN);
  expect(await kept()).not.toContain('2500000');
  report([{ mac: MARN, down: 3_000_000, up: 90_000 }]);
  await ada.until(path, (list: { down: number }[]) => list[0]?.down === 3_000_000);
});

test('what somebody would get is told to who looks; it is tried by who may change things, and names and classes are bounded', async () => {
  const { id } = await ada.get('/api/drafts/current');
  const oli = await setting.as('oli');
  const asked = { siteId, who: 'marn.ellis', assumedId: ids.crew };
  const { whom, rows } = await oli.post(`/api/drafts/${id}/gets`, asked);
  expect(whom).toMatchObject({ user: 'marn.ellis', groups: null, assumed: 'Deckhands' });
  expect(rows.find(({ place }: { place: { id: string } }) => place.id === ids.ssid)).toMatchObject({
    ...{ server: 'Quay', assumed: true, accessClass: { name: 'Deckhands' }, segment: { name: 'Crew' } },
  });
  const entry = { method: 'peap', user: 'marn.ellis', password: 'x' };
  const place = { ssidId: ids.ssid };
  const tries = (body: object, as = ada) =>
    as.ask('POST', `/api/drafts/${id}/gets/try`, { ...asked, place, entry, ...body });
  expect((await tries({}, oli)).status).toBe(403);
  for (const [body, status] of [
    [{ who: 'x'.repeat(254) }, 400],
    [{ who: '' }, 400],
    [{ assumedId: randomUUID() }, 404],
    [{ place: { ssidId: randomUUID() } }, 404],
    [{ place: { deviceId: apId, port: 'none' } }, 404],
    [{ entry: null }, 400],
  ] as const)
    expect([body, (await tries(body)).status]).toEqual([body, status]);
  const trying = tries({});
  const { id: command } = await ap.next('command');
  const vlan = { kind: 'none' as const, text: '' };
  const exchange = { why: '', address: null, packets: [], sent: 1, ms: 4, vlan, sessionSeconds: null, keys: true };
  ap.say({
    ...{ type: 'answer', id: command, ok: true, text: '' },
    exchange: { ...exchange, end: 'accepted', filterIds: ['Gulls'] },
  });
  expect((await trying).json).toMatchObject({
    ...{ device: name, accessClass: null, segment: null },
    differs: [expect.stringMatching(/were to be let in, into Crew, and are not: .*Gulls/)],
  });
});
