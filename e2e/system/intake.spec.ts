import { execFileSync } from 'node:child_process';
import { writeFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Estate } from './estate';

type Json = any; // answers of the API are judged by what the tests expect of them

let estate: Estate;
let brinmouth = '';
beforeAll(async () => {
  estate = await Estate.start();
  await estate.signIn();
  await estate.allInStep();
  brinmouth = (await estate.site('Brinmouth')).id;
});
afterAll(() => estate.end());

const updateOf = async (batchId: string, name: string): Promise<Json> => {
  const batches = await estate.call('GET', '/api/firmware/updates');
  return batches.find((each: Json) => each.id === batchId)?.updates.filter((each: Json) => each.name === name);
};

test('boxes announced by a list are claimed, named and in step when they are plugged in, with nobody touching them', async () => {
  for (const serial of ['3A1-0149-57', '5C2-0135-55', '7K4-0156-58'])
    await estate.tell({ do: 'power', serial, on: false });
  const site = await estate.call('POST', '/api/sites', {
    name: 'Eastholm',
    code: 'eh',
    country: 'IE',
    timeZone: 'Europe/Dublin',
  });
  await estate.until('calling no more', async () => (await estate.call('GET', '/api/calling')).length === 0);
  const list = [
    'serial,model,site,name,tags,firmware',
    '3A1-0149-57,GW-4,Eastholm,,pallet,leave',
    '5C2-0135-55,sw-24p,eh,eh-core,pallet,window',
    '7K4-0156-58,AP-6E,Eastholm,,pallet; deck,at once',
  ].join('\n');
  const preview = await estate.upload('/api/serial-lists', list);
  expect(preview).toMatchObject({ good: 3, bad: 0, flaws: [] });
  const { imported } = await estate.call('POST', '/api/serial-lists/import', {
    token: preview.token,
    leaveOutBad: false,
  });
  expect(imported).toBe(3);
  expect((await estate.site('Eastholm')).devices).toMatchObject({ expected: 3, calling: 0 });
  for (const serial of ['3A1-0149-57', '5C2-0135-55', '7K4-0156-58'])
    await estate.tell({ do: 'power', serial, on: true });
  await estate.until(
    'the pallet is in step',
    async () => (await estate.site('Eastholm')).devices['in step'] === 3,
    30_000,
  );
  const ap = await estate.until('the AP is current', async () => {
    const view = await estate.view('7K4-0156-58');
    return view.firmware === '4.4.1' && view.state === 'in step' && view;
  });
  expect(ap).toMatchObject({ name: 'eh-ap-01', tags: ['pallet', 'deck'], policy: 'at-once', firmwareState: 'current' });
  expect(await estate.view('5C2-0135-55')).toMatchObject({ name: 'eh-core', policy: 'window', firmwareState: 'older' });
  expect((await estate.device('7K4-0156-58')).runs).toBe(ap.wants);
  const history: Json[] = await estate.call('GET', `/api/devices/${ap.id}/history`);
  const claimed = history.find((entry) => entry.words.startsWith('Claimed'));
  expect(claimed).toMatchObject({ words: 'Claimed as eh-ap-01, as it was expected.', by: 'Ida Holm' });
  expect(site.code).toBe('eh');
});

test('a fixed address is taken on trial, checked beforehand, and survives a restart of the controller', async () => {
  const { id } = await estate.view('7K4-0135-55');
  const fixed = { address: '10.12.1.9', length: '24', gateway: '10.12.1.1', dns: '10.12.1.1' };
  for (const [change, code] of [
    [{ address: '10.12.2.9' }, 'address.outside'],
    [{ address: '10.12.1.1' }, 'address.taken'],
    [{ address: '10.12.1.40' }, 'address.in-range'],
    [{ gateway: '10.12.1.2' }, 'address.cut-off'],
    [{ length: '16' }, 'address.length'],
    [{ dns: 'nowhere' }, 'address.dns'],
  ] as const) {
    const refused = await estate.refused('PATCH', `/api/devices/${id}`, { fixed: { ...fixed, ...change } });
    expect(refused.flaws.map((flaw: Json) => flaw.code)).toEqual([code]);
  }
  await estate.call('PATCH', `/api/devices/${id}`, { fixed, name: 'bm-ap-mast', lightOff: true });
  await estate.until('in step at its fixed address', async () => {
    const view = await estate.view('7K4-0135-55');
    return view.state === 'in step' && view.address === '10.12.1.9';
  });
  expect((await estate.device('7K4-0135-55')).address).toBe('10.12.1.9');
  await estate.stopController();
  await estate.startController();
  expect(await estate.view('7K4-0135-55')).toMatchObject({
    name: 'bm-ap-mast',
    lightOff: true,
    fixed: { address: '10.12.1.9' },
  });
  await estate.allInStep();
});

test('devices answer: ping, trace route, name look-up, locate, restart', async () => {
  const { id } = await estate.view('7K4-0142-56');
  const ask = (name: string, target: string): Promise<Json> =>
    estate.call('POST', `/api/devices/${id}/commands`, { name, target });
  expect(await ask('ping', 'timetable.skerrow.example')).toEqual({
    ok: true,
    text: 'timetable.skerrow.example (198.51.100.80) answers.',
  });
  expect(await ask('ping', '10.12.99.1')).toEqual({ ok: false, text: '10.12.99.1 does not answer.' });
  expect((await ask('trace', '198.51.100.80')).text).toBe('1  10.12.1.1\n2  203.0.113.1\n3  198.51.100.80');
  expect((await ask('lookup', 'www.skerrow.example')).text).toBe(
    'www.skerrow.example is 198.51.100.81, says 10.12.1.1.',
  );
  expect(await ask('lookup', 'nobody.example')).toEqual({ ok: false, text: '10.12.1.1 knows no nobody.example.' });
  expect(
    (await estate.refused('POST', `/api/devices/${id}/commands`, { name: 'lookup', target: '; reboot' })).title,
  ).toBe('“; reboot” is not a name.');
  const before = (await estate.view('7K4-0142-56')).bootedAt;
  expect((await ask('restart', '')).ok).toBe(true);
  await estate.until('started anew', async () => {
    const view = await estate.view('7K4-0142-56');
    return view.state === 'in step' && view.bootedAt > before;
  });
});

test('a capture is a file that tcpdump reads: neighbours’ announcements, the ping, the device’s own line', async () => {
  const { id } = await estate.view('7K4-0142-56');
  const capturing = estate.fetch('POST', `/api/devices/${id}/captures`, { port: 'lan', seconds: 2 });
  let over = false;
  void capturing.finally(() => (over = true));
  // Which of the two commands reaches the device first is not said: it pings for as long as it captures.
  while (!over) await estate.call('POST', `/api/devices/${id}/commands`, { name: 'ping', target: '10.12.1.1' });
  const response = await capturing;
  expect(response.headers.get('content-disposition')).toContain('bm-ap-02-lan.pcapng');
  const folder = mkdtempSync(join(tmpdir(), 'lattice-capture-'));
  const file = join(folder, 'capture.pcapng');
  writeFileSync(file, Buffer.from(await response.arrayBuffer()));
  const text = execFileSync('tcpdump', ['-n', '-v', '-r', file], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'ignore'],
    env: { ...process.env, PATH: `${process.env['PATH']}:/usr/sbin` },
  });
  rmSync(folder, { recursive: true });
  expect(text).toMatch(/LLDP, length \d+[\s\S]*Port ID TLV/);
  expect(text).toMatch(/Request who-has 10\.12\.1\.1 tell 10\.12\.1\.\d+/);
  expect(text).toMatch(/> 10\.12\.1\.1: ICMP echo request/);
  expect(text).toMatch(/10\.12\.1\.1 > 10\.12\.1\.\d+: ICMP echo reply/);
  expect(text).toMatch(/> 203\.0\.113\.200\.8620: Flags \[P\.\], cksum 0x[0-9a-f]+ \(correct\)/);
  expect(text).not.toContain('bad cksum');
  expect((await estate.refused('POST', `/api/devices/${id}/captures`, { port: '9', seconds: 1 })).title).toBe(
    'bm-ap-02 has no port 9.',
  );
});

test('an update that fails leaves the old release running and says so; the rest waits behind the canary', async () => {
  const aps = ['7K3-0107-51', '7K3-0114-52'];
  const views = await Promise.all(aps.map((serial) => estate.view(serial)));
  const [first, second] = [...views].sort((a, b) => (a.name < b.name ? -1 : 1));
  await estate.tell({ do: 'fail-update', serial: first.serial, reason: 'The image does not start' });
  const batch = await estate.call('POST', '/api/firmware/updates', {
    deviceIds: views.map((view) => view.id),
    mode: 'staged',
  });
  const failed = await estate.until('the canary failed', async () =>
    (await updateOf(batch.id, first.name)).find((each: Json) => each.state === 'failed'),
  );
  expect(failed).toMatchObject({ canary: true, reason: 'The image does not start. It went back to 4.3.0 by itself.' });
  expect((await estate.device(first.serial)).firmware).toBe('4.3.0');
  expect(await estate.view(first.serial)).toMatchObject({ firmware: '4.3.0', firmwareState: 'older', updating: null });
  expect(await updateOf(batch.id, second.name)).toMatchObject([
    { state: 'held', reason: `${first.name} went first and failed.` },
  ]);
  await estate.call('POST', `/api/firmware/updates/${batch.id}/go-on`);
  await estate.until('the rest is through', async () => (await updateOf(batch.id, second.name))[0].state === 'done');
  expect((await estate.device(second.serial)).firmware).toBe('4.4.1');
  await estate.allInStep();
});

test('a device that needs two steps takes both, and nothing else is pushed to it meanwhile', async () => {
  const view = await estate.view('5B9-0107-51');
  const plan = await estate.call('POST', '/api/firmware/plan', { deviceIds: [view.id], mode: 'now' });
  expect(plan).toMatchObject([{ running: '4.9.8', steps: ['5.0.1', '5.1.0'], refusal: null }]);
  const batch = await estate.call('POST', '/api/firmware/updates', { deviceIds: [view.id], mode: 'now' });
  await estate.until('it has begun', async () => (await estate.view('5B9-0107-51')).updating === '5.0.1');
  expect((await estate.refused('PATCH', `/api/devices/${view.id}`, { name: 'dd-sw-core' })).title).toBe(
    `${view.name} is being updated to 5.0.1. Wait until it is through.`,
  );
  await estate.until(
    'both steps are done',
    async () => (await updateOf(batch.id, view.name)).every((each: Json) => each.state === 'done'),
    30_000,
  );
  expect((await estate.device('5B9-0107-51')).firmware).toBe('5.1.0');
  await estate.allInStep();
});

test('a new box takes the old one’s place: name, address, ports, history; the old one starts anew', async () => {
  const old = await estate.view('7K4-0149-57');
  await estate.call('PATCH', `/api/devices/${old.id}`, {
    fixed: { address: '10.12.1.11', length: '24', gateway: '10.12.1.1', dns: '10.12.1.1' },
    version: old.version,
    tags: ['deck'],
  });
  await estate.allInStep(brinmouth);
  await estate.tell({ do: 'power', serial: '7K4-0163-59', on: true });
  await estate.until('the spare calls', async () => (await estate.call('GET', '/api/calling')).length === 1);
  expect(await estate.call('GET', `/api/devices/${old.id}/replacements`)).toEqual([
    { serial: '7K4-0163-59', model: 'AP-6E', losses: [] },
  ]);
  await estate.tell({ do: 'take-place', serial: '7K4-0163-59', of: '7K4-0149-57' });
  const now = await estate.call('POST', `/api/devices/${old.id}/replace`, {
    serial: '7K4-0163-59',
    despiteLosses: false,
  });
  expect(now).toMatchObject({ id: old.id, name: old.name, serial: '7K4-0163-59', tags: ['deck'] });
  await estate.until('the new box is in step', async () => {
    const view = await estate.view('7K4-0163-59');
    return view.state === 'in step' && view.address === '10.12.1.11' && view.hangsOn === old.hangsOn;
  });
  const history: Json[] = await estate.call('GET', `/api/devices/${old.id}/history`);
  expect(history[0].words).toBe('The box 7K4-0149-57 was replaced by 7K4-0163-59.');
  expect(history.some((entry) => entry.words.startsWith('Given the fixed address 10.12.1.11'))).toBe(true);
});

test('moving and releasing say beforehand what they would leave behind, and do it', async () => {
  const gateway = await estate.view('3A1-0149-57');
  const left: Json[] = await estate.call('GET', `/api/devices/${gateway.id}/leftovers`);
  expect(left.map((each) => each.code)).toEqual(['segments', 'devices', 'ports']);
  expect(left[1].message).toMatch(/^2 devices would lose their only way to the controller: eh-ap-01, eh-core/);
  const ap = await estate.view('7K4-0156-58');
  await estate.call('POST', `/api/devices/${ap.id}/move`, { siteId: brinmouth });
  await estate.until('moved and in step', async () => {
    const view = await estate.view('7K4-0156-58');
    return view.siteId === brinmouth && view.state === 'in step' && /^bm-ap-\d\d$/.test(view.name);
  });
  await estate.call('POST', `/api/devices/${ap.id}/release`);
  await estate.until('it calls from factory state', async () => {
    const calling: Json[] = await estate.call('GET', '/api/calling');
    return calling.some((each) => each.serial === '7K4-0156-58') && (await estate.device('7K4-0156-58')).runs === null;
  });
});

test('a box released while it was silent goes back to factory state when it is heard', async () => {
  const core = await estate.view('5C2-0135-55');
  await estate.tell({ do: 'power', serial: '5C2-0135-55', on: false });
  await estate.until('silent', async () => (await estate.view('5C2-0135-55')).state === 'silent');
  await estate.call('POST', `/api/devices/${core.id}/release`);
  expect((await estate.device('5C2-0135-55')).runs).not.toBeNull();
  await estate.tell({ do: 'power', serial: '5C2-0135-55', on: true });
  await estate.until('it forgot', async () => (await estate.device('5C2-0135-55')).runs === null);
  await estate.until('and calls', async () => (await estate.view('5C2-0135-55'))?.state === 'calling');
});

test.each([
  ['the controller', null, '127.77.0.0/20', ['127.77.1.23', '127.77.9.104']],
  ['a gateway', '3A1-0107-51', '10.10.0.0/20', null],
])(
  'a sweep by %s finds boxes that wait, says how far it is, and has them call',
  async (_by, gateway, prefix, addresses) => {
    const deviceId = gateway && (await estate.view(gateway)).id;
    const started = await estate.call('POST', '/api/sweeps', { prefix, deviceId, siteId: null });
    expect(started).toMatchObject({ state: 'running', of: 4096 });
    const done = await estate.until('swept', async () => {
      const sweep = await estate.call('GET', `/api/sweeps/${started.id}`);
      return sweep.state === 'done' && sweep;
    });
    const fresh = done.found.filter((each: Json) => each.known === 'new' || each.known === 'calling');
    expect(fresh.map((each: Json) => each.serial).sort()).toEqual(['5B9-0135-55', '7K3-0177-61']);
    if (addresses) expect(done.found.map((each: Json) => each.address)).toEqual(addresses);
    const box = fresh.find((each: Json) => each.serial === (gateway ? '5B9-0135-55' : '7K3-0177-61'));
    await estate.call('POST', `/api/sweeps/${started.id}/invitations`, { address: box.address });
    await estate.until('it calls', async () => (await estate.view(box.serial))?.state === 'calling');
  },
);

test('a sweep can be stopped', async () => {
  const deviceId = (await estate.view('3A1-0107-51')).id;
  for (const [by, prefix] of [
    [null, '127.77.0.0/18'],
    [deviceId, '10.10.0.0/18'],
  ]) {
    const { id } = await estate.call('POST', '/api/sweeps', { prefix, deviceId: by, siteId: null });
    const stopped = await estate.call('POST', `/api/sweeps/${id}/stop`);
    expect(stopped.state).toBe('stopped');
    expect(stopped.done).toBeLessThan(stopped.of);
  }
  expect(
    (await estate.refused('POST', '/api/sweeps', { prefix: '203.0.113.0/24', deviceId: null, siteId: null })).code,
  ).toBeUndefined();
  expect(
    (await estate.refused('POST', '/api/sweeps', { prefix: '10.0.0.0/8', deviceId: null, siteId: null })).title,
  ).toMatch(/16,384 addresses/);
});

test('clocks, strange documents and lines that do not hold are hitches with a reason, and settle', async () => {
  await estate.tell({ do: 'clock', serial: '7K3-0121-53', off: -11_520_000 });
  const clock = await estate.until('the clock is noticed', async () => (await estate.hitches('clock'))[0]);
  expect(clock).toMatchObject({
    who: 'dd-ap-01',
    reason: 'Its clock is 3 h 12 min behind; schedules and logs mislead.',
  });
  await estate.tell({ do: 'clock', serial: '7K3-0121-53', off: null });
  await estate.until('it settles by itself', async () => (await estate.hitches('clock')).length === 0);

  await estate.tell({ do: 'strange-document', serial: '7K3-0128-54', hash: 'ab'.repeat(32) });
  const strange = await estate.until('the document is noticed', async () => (await estate.hitches('hash'))[0]);
  expect(strange.reason).toBe('It runs a document that nobody here sent (abababababababab…).');
  expect((await estate.view('7K3-0128-54')).state).toBe('stuck');
  await estate.tell({ do: 'strange-document', serial: '7K3-0128-54', hash: null });
  await estate.call('POST', `/api/hitches/${strange.id}/retry`);
  await estate.until('in step again', async () => (await estate.view('7K3-0128-54')).state === 'in step');

  const flaps = async () => (await estate.hitches('flapping')).find((each) => each.serial === '7K3-0135-55');
  // It may stumble again before it was heard to: as often as it takes.
  for (let i = 0; i < 60 && !(await flaps()); i++) {
    await estate.tell({ do: 'stumble', serial: '7K3-0135-55' });
    await estate.until('it calls again', async () => (await estate.view('7K3-0135-55')).state === 'in step');
  }
  const flapping = await estate.until('it flaps', flaps);
  expect(flapping.reason).toMatch(/^It called 6 times within .*; its line does not hold\.$/);
});

test('a gateway without internet calls once its own page is told what the provider gave, and stays on the line once it is taken in', async () => {
  const serial = '3A1-0156-58';
  const wish = { name: 'Sallow Point', code: 'sl', country: 'IE', timeZone: 'Europe/Dublin' };
  const site = await estate.call('POST', '/api/sites', wish);
  const announced = await estate.call('POST', `/api/sites/${site.id}/expected`, { serial });
  expect(announced).toMatchObject({ claimed: false });
  const page = `${estate.controlUrl}/box/${serial}`;
  expect(await (await fetch(page)).text()).toContain('Nobody answers untagged.');
  const typed = { port: 'wan1', way: 'pppoe', vlan: '7', user: 'skerrow-58', password: 'two grey gulls' };
  const say = async (fields: Record<string, string>): Promise<string> =>
    (await fetch(page, { method: 'POST', body: new URLSearchParams(fields) })).text();
  expect(await say({ ...typed, password: 'two black gulls' })).toContain('turns the name and the password down');
  expect(await say(typed)).toContain('has 198.51.100.58');
  const inStep = (): Promise<Json> =>
    estate.until('in step', async () => {
      const view = await estate.view(serial).catch(() => null);
      return view?.state === 'in step' && view;
    });
  const view = await inStep();
  expect(view.first).toEqual({ port: 'wan1', way: 'pppoe', vlan: 7, user: 'skerrow-58' });
  expect((await estate.device(serial)).reaches).toBe(true);
  // What it runs says so by itself, whoever of the two starts anew.
  await Promise.all([estate.stopController(), estate.stopFleet()]);
  await estate.startController();
  estate.startFleet();
  await estate.signIn();
  await inStep();
  expect(await say({ ...typed, vlan: '8' })).toContain('It does what its controller says.');
  const { uplinks } = (await estate.call('GET', `/api/sites/${site.id}/paths`)).gateways[0];
  expect(uplinks[0]).toMatchObject({ port: 'wan1', address: '198.51.100.58', used: true });
});
