import { spawn } from 'node:child_process';
import { randomBytes, randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { MadeUsers } from './user.service';
import type { NewUser, OwnCertificateView, UsersView, UserView } from '@iron-lattice/core/entry';
import type { Operation } from '@iron-lattice/core/intent';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { AskingEstate, ASKING_SECRET, deckhands, ownServer } from '../testing/asking-estate';
import { RadiusClient } from '../testing/radius-client';
import type { TestCaller, TestController } from '../testing/test-controller';
import type { TestDevice } from '../testing/test-device';
import { makeAuthority } from './certificates/authority';

let setting: TestController;
let ada: TestCaller;
let box: TestDevice;
let client: RadiusClient;
let deviceId = '';
let port = 0;
const [SECRET, server, crewClass] = [ASKING_SECRET, ownServer, deckhands];
let estate: AskingEstate;
const edit = (operations: Operation[]) => estate.edit(operations);
const user = (change: Partial<NewUser> & { name: string }): NewUser => ({
  ...{ password: 'herring gull 9', groups: ['deck'], until: null, most: null, off: false, note: '' },
  ...change,
});
const make = (...users: NewUser[]): Promise<{ status: number; json: any }> => sends('/api/users', users);
async function sends(path: string, body: unknown): Promise<{ status: number; json: any }> {
  const response = await fetch(`${setting.controller.url}${path}`, {
    method: 'POST',
    headers: { cookie: ada.cookie, 'content-type': 'application/octet-stream' },
    body: typeof body === 'string' ? body : JSON.stringify(body),
  });
  return { status: response.status, json: await response.json() };
}
const list = async (): Promise<readonly UserView[]> => ((await ada.get('/api/users')) as UsersView).users;
const named = async (name: string): Promise<UserView> => (await list()).find((each) => each.name === name)!;
/** What changed is heard of a moment later by the thread that answers. */
async function becomes(what: () => Promise<string>, is: string): Promise<void> {
  for (let tries = 0; ; tries++) {
    const now = await what();
    if (now === is || tries > 40) return expect(now).toBe(is);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

beforeAll(async () => {
  estate = await AskingEstate.start('ENT-02');
  ({ setting, ada, box, client, deviceId, port } = estate);
});
afterAll(() => estate.end());

test('a user is let in with the class of the first group that has one; what they are not is told apart, and act at once', async () => {
  expect((await make(user({ name: 'Marn.Ellis', groups: ['visitors', 'DECK'] }))).status).toBe(201);
  const asks = (password: string, name = 'marn.ellis') => client.ask({ user: name, password });
  await becomes(() => asks('herring gull 9'), 'accept Deckhands');
  expect(await asks('herring gull 8')).toBe('reject');
  expect(await asks('herring gull 9', 'MARN.ELLIS')).toBe('accept Deckhands');
  expect(await asks('herring gull 9', 'nobody at all')).toBe('reject Not kept here');
  expect(await client.ask({ user: 'marn.ellis', password: 'herring gull 9' }, 'another secret than ours')).toBe(
    'silent',
  );
  expect(await new RadiusClient(port, '02:00:00:99:00:99', SECRET).ask({ user: 'marn.ellis' })).toBe('silent');
  // A challenge needs the password itself, which nobody here has.
  expect(await client.ask({ user: 'marn.ellis', password: 'herring gull 9', method: 'chap' })).toBe('reject');

  const { id, version } = await named('Marn.Ellis');
  const set = (to: object, at = version) => ada.ask('PATCH', `/api/users/${id}`, { version: at, to });
  expect((await set({ off: true })).status).toBe(204);
  await becomes(() => asks('herring gull 9'), 'reject');
  expect((await set({ off: false })).json.type).toBe('about:lattice/user.changed');
  expect((await set({ off: false, groups: ['none of them'] }, version + 1)).status).toBe(204);
  await becomes(() => asks('herring gull 9'), 'accept');
  await set({ until: '2026-01-01' }, version + 2);
  await becomes(() => asks('herring gull 9'), 'reject');
  await set({ until: null, groups: ['engine'] }, version + 3);
  await becomes(() => asks('herring gull 9'), 'accept Deckhands');

  const { drawn } = await ada.post(`/api/users/${id}/password`, { password: '' });
  expect(drawn).toMatch(/^[a-z2-9]{12}$/);
  await becomes(() => asks(drawn), 'accept Deckhands');
  expect(await asks('herring gull 9')).toBe('reject');
  await ada.post('/api/users/remove', { ids: [id] });
  await becomes(() => asks(drawn), 'reject Not kept here');
  expect(await ada.get('/api/removed-users')).toMatchObject([{ id, name: 'Marn.Ellis' }]);
  await ada.post('/api/users/restore', { ids: [id] });
  await becomes(() => asks(drawn), 'accept Deckhands');
  expect(await ada.get('/api/removed-users')).toEqual([]);
});

test('what a user would get is told for each site, by the draft', async () => {
  const { id } = await named('Marn.Ellis');
  const { id: draft } = await ada.get('/api/drafts/current');
  expect(await ada.get(`/api/drafts/${draft}/users/${id}/sites`)).toMatchObject([
    {
      ...{
        site: 'Pier',
        ssids: ['Crew deck'],
        ports: 0,
        server: 'This controller',
        accessClass: 'Deckhands',
        lacks: [],
      },
      segment: { name: 'Crew', vlan: 10, subnet: '10.5.10.0/24' },
    },
  ]);
  expect((await ada.ask('GET', `/api/drafts/${draft}/users/${randomUUID()}/sites`)).status).toBe(404);
});

test('a user is found by name, group and note', async () => {
  for (const words of ['marn.e', 'engine'])
    expect(await ada.get(`/api/search?q=${words}`), words).toMatchObject([{ kind: 'user', title: 'Marn.Ellis' }]);
  expect(await ada.get('/api/search?q=%25')).toEqual([]);
});

test('a user comes with as many devices as they may; they are told, and can be forgotten', async () => {
  expect((await make(user({ name: 'jory.pell', most: 1 }))).status).toBe(201);
  const asks = (mac: string) => client.ask({ user: 'jory.pell', password: 'herring gull 9', mac });
  await becomes(() => asks('02:00:00:00:00:71'), 'accept Deckhands');
  expect(await asks('02:00:00:00:00:72')).toBe('reject');
  expect(await asks('02:00:00:00:00:71')).toBe('accept Deckhands');
  await ada.until('/api/users', ({ users }: UsersView) =>
    users.some(({ name, devices }) => name === 'jory.pell' && devices[0]?.mac === '02:00:00:00:00:71'),
  );
  const { id, devices, lastAt } = await named('jory.pell');
  expect([devices.length, devices[0]!.where, lastAt !== null]).toEqual([1, 'pr-ap-01', true]);
  await ada.post(`/api/users/${id}/forget-devices`, {});
  await becomes(() => asks('02:00:00:00:00:72'), 'accept Deckhands');
  expect(await asks('02:00:00:00:00:71')).toBe('reject');
});

test('a device that is kept is let in by its MAC address, however that is written, and needs no password', async () => {
  expect((await make(user({ name: '0E-C4-60-00-00-03', password: 'herring gull 9' }))).json.type).toBe(
    'about:lattice/user.refused',
  );
  expect((await make(user({ name: '0E-C4-60-00-00-03', password: null }))).status).toBe(201);
  expect((await named('0e:c4:60:00:00:03')).groups).toEqual(['deck']);
  const mac = '0e:c4:60:00:00:03';
  await becomes(() => client.ask({ user: mac, method: 'mac', mac }), 'accept Deckhands');
  expect(await client.ask({ user: '0ec4.6000.0003', password: '0ec460000003', mac })).toBe('accept Deckhands');
  expect(await client.ask({ user: mac, password: 'something else', mac })).toBe('reject');
  expect((await make(user({ name: '0ec460000003', password: null }))).json.flaws).toMatchObject([
    { code: 'user.name-taken', field: 'name' },
  ]);
});

test('users come from a list: rows that are wrong are told, passwords that are missing are drawn and told once', async () => {
  const rows = ['name,password,groups,until,devices', 'dell.farrow,,Deck; Engine,2027-01-31,2', 'Marn.Ellis,,,,'];
  rows.push('a,b,c,d,e', `${'x'.repeat(260)},,,,`, 'Dell.Farrow,,,,');
  const seen = await sends('/api/user-list', rows.join('\n'));
  const flaws = seen.json.rows.map(({ flaws: found }: any) => found.map(({ code }: any) => code.slice(5)).join(' '));
  expect(flaws).toEqual(['', 'name-taken', 'until most password-short', 'name-long', 'name-taken']);
  const made = await make(...seen.json.rows.flatMap(({ good }: any) => good ?? []));
  const { drawn } = made.json as MadeUsers;
  expect(Object.values(drawn)).toHaveLength(1);
  await becomes(() => client.ask({ user: 'dell.farrow', password: drawn[0]! }), 'accept Deckhands');
  expect((await make(user({ name: 'quay.one' }), user({ name: 'quay.two', password: 'short' }))).json).toMatchObject({
    title: expect.stringMatching(/^Row 2: .*Nothing was made\.$/),
  });
  expect((await list()).some(({ name }) => name === 'quay.one')).toBe(false);
});

test('how far a long list is is told, and one that is called off makes nobody', async () => {
  const many = Array.from({ length: 400 }, (_, i) => user({ name: `hand.${i}`, password: `herring gull ${i}` }));
  const token = randomUUID();
  const left = new AbortController();
  const told: number[] = [];
  const off = setting.controller.bus.on('live', (event) => {
    if (event.type !== 'users-made' || event.token !== token) return;
    told.push(event.done);
    left.abort();
  });
  const answer = fetch(`${setting.controller.url}/api/users?token=${token}`, {
    method: 'POST',
    headers: { cookie: ada.cookie, 'content-type': 'application/octet-stream' },
    body: JSON.stringify(many),
    signal: left.signal,
  });
  await expect(answer).rejects.toThrow();
  off();
  expect(told[0]).toBe(50);
  // Others may make users again, so that one has ended; of it nobody is there.
  expect((await make(user({ name: 'after.it' }))).status).toBe(201);
  expect((await list()).filter(({ name }) => name.startsWith('hand.'))).toEqual([]);
});

test('who is kept and turned away is told with why, where and how often; nothing is said of who is kept by nobody', async () => {
  await make(user({ name: 'pia.lund', until: '2026-01-01' }));
  await becomes(() => client.ask({ user: 'pia.lund', password: 'herring gull 9' }), 'reject');
  for (let i = 0; i < 12; i++) await client.ask({ user: 'pia.lund', password: `guess number ${i}` });
  await client.ask({ user: 'nobody at all', password: 'herring gull 9' });
  await ada.until('/api/users', ({ users }: UsersView) =>
    users.some(({ name, refused }) => name === 'pia.lund' && refused >= 13),
  );
  const { refusals } = await named('pia.lund');
  const told = Object.fromEntries(refusals.map(({ why, mac, where, count }) => [why, [count, mac, where]]));
  const at = ['02:00:00:00:00:77', 'pr-ap-01'];
  expect(told).toMatchObject({
    'its password is wrong': [10, ...at],
    'too many wrong passwords came; none is looked at for five minutes': [2, ...at],
  });
  expect(Object.keys(told)).toContain('the user’s time was over on 2026-01-01');
  expect(JSON.stringify(await list())).not.toContain('guess number');
});

test('a user changes their own password by the one they have; guessing is held up', async () => {
  const anyone = setting.anyone();
  await make(user({ name: 'cody.reeve' }));
  const change = (password: string, next: string, name = 'cody.reeve') =>
    anyone.ask('POST', '/api/own-password', { name, password, next });
  expect((await change('herring gull 8', 'slack water 24')).json.type).toBe('about:lattice/session.wrong');
  expect((await change('herring gull 8', 'slack water 24', 'nobody at all')).json.type).toBe(
    'about:lattice/session.wrong',
  );
  expect((await change('herring gull 9', 'short')).json.flaws).toMatchObject([{ code: 'user.password-short' }]);
  expect((await change('herring gull 9', 'slack water 24')).status).toBe(204);
  await becomes(() => client.ask({ user: 'cody.reeve', password: 'slack water 24' }), 'accept Deckhands');
});

test('a server of the draft that is the controller itself is tried with the draft’s classes, and nothing of it counts', async () => {
  await edit([
    { type: 'class.set', classId: crewClass.id, from: { groups: ['Deck', 'Engine'] }, to: { groups: ['Engine'] } },
    {
      type: 'class.add',
      accessClass: { ...crewClass, id: randomUUID(), name: 'Mates', groups: ['Deck'] },
    },
  ]);
  await make(user({ name: 'tam.orrick' }));
  const { id: draft } = await ada.get('/api/drafts/current');
  const path = `/api/drafts/${draft}/radius/${server.id}/test`;
  const answer = ada.ask('POST', path, { deviceId, method: 'pap', user: 'tam.orrick', password: 'x' });
  const { id, entry } = await box.next('command');
  expect(entry).toMatchObject({ server: { own: true, address: '' } });
  expect(entry!.server.secret).not.toBe(SECRET);
  expect(entry!.server).toMatchObject({
    certificateName: 'test-estate.radius.internal',
    authority: expect.stringMatching(/^-----BEGIN/),
  });
  const tries = new RadiusClient(port, box.mac, entry!.server.secret);
  await becomes(() => tries.ask({ user: 'tam.orrick', password: 'herring gull 9' }), 'accept Mates');
  expect(await tries.ask({ user: 'tam.orrick', password: 'herring gull 8' })).toBe('reject its password is wrong');
  expect(await client.ask({ user: 'tam.orrick', password: 'herring gull 9', mac: '02:00:00:00:00:78' })).toBe(
    'accept Deckhands',
  );
  box.say({ type: 'answer', id, ok: false, text: 'It is busy.' });
  await answer;
});

test('eapol_test, which we did not write, goes through EAP-TTLS with the controller, and believes no other', async () => {
  const own: OwnCertificateView = await ada.get('/api/entry-certificate');
  expect(own.name).toBe('test-estate.radius.internal');
  expect(Date.parse(own.until) - Date.now()).toBeGreaterThan(360 * 86_400_000);
  const folder = mkdtempSync(join(tmpdir(), 'entry-'));
  const path = (name: string): string => join(folder, name);
  const other = await makeAuthority('Somebody');
  writeFileSync(path('ca.pem'), own.authority);
  writeFileSync(path('other.pem'), other.cert);
  const ends = async (lines: readonly string[], ca = 'ca.pem'): Promise<string> => {
    const all = ['key_mgmt=WPA-EAP', 'eap=TTLS', 'phase2="auth=PAP"', `ca_cert="${path(ca)}"`, ...lines];
    writeFileSync(path('ttls.conf'), `network={\n ${all.join('\n ')}\n}\n`);
    const args = ['-c', path('ttls.conf'), '-a', '127.0.0.1', '-p', String(port), '-s', SECRET, '-r', '0', '-t', '5'];
    const called = [`-N30:s:${box.mac.replaceAll(':', '-').toUpperCase()}:Crew deck`];
    const child = spawn('eapol_test', [...args, ...called]);
    const said: Buffer[] = [];
    child.stdout.on('data', (chunk: Buffer) => said.push(chunk));
    await new Promise((resolve) => child.once('close', resolve));
    return Buffer.concat(said).toString().trim().split('\n').at(-1)!;
  };
  const who = ['identity="cody.reeve"', 'password="slack water 24"'];
  const named = `domain_match="${own.name}"`;
  expect(await ends([...who, named])).toBe('SUCCESS');
  expect(await ends(['anonymous_identity="anonymous"', ...who, named])).toBe('SUCCESS');
  expect(await ends(['identity="cody.reeve"', 'password="slack water 25"'])).toBe('FAILURE');
  expect(await ends([...who, 'domain_match="other.example"'])).toBe('FAILURE');
  expect(await ends(who, 'other.pem')).toBe('FAILURE');
  rmSync(folder, { recursive: true });
});

test('nothing that comes stops it: what is cut, mad, or the same over and over', async () => {
  for (const bytes of [new Uint8Array(0), new Uint8Array(4096).fill(255), new Uint8Array(randomBytes(65_000))])
    expect(await client.send(bytes, 50)).toBeNull();
  const many = await Promise.all(
    Array.from({ length: 64 }, () => client.ask({ user: 'cody.reeve', password: 'slack water 24' }, SECRET, 5000)),
  );
  expect(new Set(many)).toEqual(new Set(['accept Deckhands']));
  for (const name of ['\u0000', 'x'.repeat(253), 'cody.reeve\u0000', 'сody.reeve'])
    expect(await client.ask({ user: name, password: 'slack water 24' }, SECRET, 5000)).toBe('reject Not kept here');
});

test('a password is shown nowhere, and no table but its own has even what it is kept as', async () => {
  const { database } = setting.controller;
  const ask = async (sql: string): Promise<{ name: string }[]> => (await database.query(sql))[0] as { name: string }[];
  const tables = await ask(
    `SELECT table_name AS name FROM information_schema.tables WHERE table_schema = 'public' AND table_type = 'BASE TABLE'
     ORDER BY table_name`,
  );
  const has = (text: string) =>
    tables.map(
      ({ name }) => `SELECT '${name}' AS name WHERE EXISTS (SELECT FROM "${name}" x WHERE x::text LIKE '%${text}%')`,
    );
  for (const text of ['slack water 24', 'herring gull 9', 'PRIVATE KEY'])
    expect(await ask(has(text).join(' UNION ALL '))).toEqual([]);
  expect(await ask(has('argon2id').join(' UNION ALL '))).toEqual([{ name: 'entry_user' }, { name: 'person' }]);
  expect(JSON.stringify(await ada.get('/api/users'))).not.toContain('argon2');
  const oli = await setting.as('oli');
  expect((await oli.ask('POST', '/api/users/remove', { ids: [randomUUID()] })).status).toBe(403);
  expect((await oli.ask('GET', '/api/users')).status).toBe(200);
});
