import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Estate } from './estate';

/** From boxes that call in to a client with its address, over processes and sockets; in order, as a person would. */
let estate: Estate;
const [GATEWAY, SWITCH, AP] = ['3A1-0149-57', '5C2-0135-55', '7K4-0156-58'];
const PASSPHRASE = 'half past nine sailing';
let siteId = '';
let segmentId = '';
const ssidId = randomUUID();

beforeAll(async () => {
  estate = await Estate.start({ anew: true, keepWithin: 15 });
  await estate.signIn();
});
afterAll(() => estate.end());

const steps = (walk: { steps: { kind: string; passed: boolean }[] }): string[] =>
  walk.steps.map((step) => `${step.kind} ${step.passed ? 'passed' : 'stopped'}`);

async function walk(on: 'draft' | 'live') {
  const { roster } = await estate.siteDraft(siteId);
  const ap = roster.find((device: { serial: string }) => device.serial === AP);
  const probe = { ssidId, apId: ap.id, band: '5', knowsPassphrase: true };
  return estate.call('POST', '/api/walks', { siteId, on, draftId: (await estate.draft()).id, probe });
}

test('the demo’s devices all come into step by themselves', async () => {
  await estate.allInStep();
  const calling = await estate.until('pallet calls', async () => {
    const list = await estate.call('GET', '/api/calling');
    return list.length === 3 && list;
  });
  expect(calling.map((device: { serial: string }) => device.serial)).toEqual([GATEWAY, SWITCH, AP]);
});

test('a new site starts with management alone, in space that is free in the estate', async () => {
  const wish = { name: 'Eastholm', code: 'eh', country: 'IE', timeZone: 'Europe/Dublin' };
  siteId = (await estate.call('POST', '/api/sites', wish)).id;
  const { site } = await estate.siteDraft(siteId);
  expect(site.segments).toMatchObject([{ name: 'Management', vlan: 1, subnet: '10.1.1.0/24', gateway: '10.1.1.1' }]);
  expect((await estate.refused('POST', '/api/sites', wish)).flaws).toMatchObject([
    { code: 'site.name-taken' },
    { code: 'site.code-taken' },
  ]);
});

test('a claim with anything wrong in it claims nothing and says what', async () => {
  const claim = (serials: string[]) => estate.refused('POST', `/api/sites/${siteId}/claims`, { serials });
  await estate.tell({ do: 'power', serial: AP, on: false });
  await estate.until('the AP is gone', async () => (await estate.call('GET', '/api/calling')).length === 2);
  const problem = await claim([GATEWAY, '3A1-0107-51', '9Z9-0000-01', AP]);
  expect(problem.flaws).toEqual([
    { code: 'claim.elsewhere', message: '3A1-0107-51 belongs to Ansel Quay, as aq-gw-01.', field: '3A1-0107-51' },
    {
      code: 'claim.unknown',
      message: 'No device with serial number 9Z9-0000-01 has ever called.',
      field: '9Z9-0000-01',
    },
    { code: 'claim.not-calling', message: `${AP} has stopped calling. Check its power and cable.`, field: AP },
  ]);
  expect(await estate.call('GET', `/api/sites/${siteId}/devices`)).toEqual([]);
  await estate.tell({ do: 'power', serial: AP, on: true });
  await estate.until('the AP calls', async () => (await estate.call('GET', '/api/calling')).length === 3);
});

test('claimed devices are named by the convention and come into step', async () => {
  await estate.call('POST', `/api/sites/${siteId}/claims`, { serials: [GATEWAY, SWITCH, AP] });
  await estate.allInStep(siteId);
  const devices = await estate.call('GET', `/api/sites/${siteId}/devices`);
  expect(devices.map((device: { name: string; state: string }) => [device.name, device.state])).toEqual([
    ['eh-ap-01', 'in step'],
    ['eh-gw-01', 'in step'],
    ['eh-sw-01', 'in step'],
  ]);
  await estate.until('reports of who hangs on whom', async () => (await estate.siteDraft(siteId)).links.length === 2);
  const ap = await estate.until('AP report', async () => {
    const [device] = await estate.call('GET', `/api/sites/${siteId}/devices`);
    return device.hangsOn && device.address?.startsWith('10.1.1.') && device;
  });
  expect(ap.hangsOn).toBe('eh-sw-01 · 7');
  expect((await estate.device(AP)).runs).toBe(ap.runs);
});

test('a segment follows from its VLAN ID, and bad values are refused in words', async () => {
  const { id } = await estate.draft();
  const proposal = await estate.call('GET', `/api/drafts/${id}/sites/${siteId}/segment-proposal?vlan=40`);
  expect(proposal).toEqual({
    subnet: '10.1.40.0/24',
    gateway: '10.1.40.1',
    addresses: { first: '10.1.40.20', last: '10.1.40.254', leaseSeconds: 28800 },
  });
  segmentId = randomUUID();
  const segment = { id: segmentId, name: 'Harbour', vlan: 40, ...proposal };
  const bad = { ...segment, vlan: 4095, subnet: '10.12.40.0/24', gateway: '10.1.40.1' };
  const body = { head: 0, operations: [{ type: 'segment.add', siteId, segment: bad }] };
  const problem = await estate.refused('POST', `/api/drafts/${id}/operations`, body);
  expect(problem.flaws.map((flaw: { code: string }) => flaw.code)).toEqual([
    'segment.vlan-range',
    'segment.gateway-outside',
    'segment.first-outside',
    'segment.last-outside',
    'segment.subnet-overlap',
  ]);
  await estate.edit([{ type: 'segment.add', siteId, segment }]);
});

test('an SSID on it shows the gap at the switch port, and the mend closes exactly that', async () => {
  const secret = randomUUID();
  const ssid = {
    id: ssidId,
    name: 'Eastholm Harbour',
    security: 'wpa2-wpa3-psk',
    passphrase: { secret },
    bands: ['2.4', '5'],
    segment: 'Harbour',
    reach: { kind: 'sites', siteIds: [siteId] },
  };
  await estate.edit([{ type: 'ssid.add', ssid }], { [secret]: PASSPHRASE });
  const before = await estate.siteDraft(siteId);
  expect(before.consequences.findings).toMatchObject([
    {
      code: 'lattice.not-carried',
      message: 'Harbour stops at eh-sw-01 port 7',
      mend: { label: 'tag 40 on port 7 of eh-sw-01' },
    },
    { code: 'lattice.management-exposed' }, // a new switch's free ports, which no person has spoken of yet
    { code: 'radio.unused' }, // the SSID is not sent at 6 GHz, which the AP could
  ]);
  expect(JSON.stringify(before)).not.toContain(PASSPHRASE);
  const [{ mend }] = before.consequences.findings;
  const port = before.roster.find((device: { serial: string }) => device.serial === SWITCH);
  expect(mend.operations).toEqual([{ type: 'port.tag', siteId, deviceId: port.id, port: '7', segmentId }]);
  await estate.edit(mend.operations);
  const after = await estate.siteDraft(siteId);
  expect(after.consequences.findings).toMatchObject([{ code: 'lattice.management-exposed' }, { code: 'radio.unused' }]);
  expect(after.consequences.changes.map((change: { name: string }) => change.name)).toEqual([
    'eh-gw-01',
    'eh-sw-01',
    'eh-ap-01',
  ]);
});

test('the rollout tells the devices, and a real client gets the address the walk foretold', async () => {
  const foretold = await walk('draft');
  expect(foretold.arrived).toBe(true);
  const rollout = await estate.rollOut();
  expect(rollout).toMatchObject({ state: 'done', revision: 1 });
  expect(rollout.steps.map((step: { name: string; state: string }) => [step.name, step.state])).toEqual([
    ['eh-gw-01', 'kept'],
    ['eh-sw-01', 'kept'],
    ['eh-ap-01', 'kept'],
  ]);
  const [client] = (await estate.device(AP)).clients;
  expect(client).toMatchObject({ ssid: 'Eastholm Harbour', vlan: 40, address: '10.1.40.20' });
  expect(foretold.steps.find((step: { kind: string }) => step.kind === 'addresses').address).toBe(client!.address);
});

test('the walk names every step on live, and without the mend stops at the port on the draft', async () => {
  const live = await walk('live');
  expect(steps(live)).toEqual(
    ['associate', 'authenticate', 'vlan', 'link', 'link', 'addresses', 'gateway', 'rules', 'internet'].map(
      (kind) => `${kind} passed`,
    ),
  );
  expect(live.steps[3]).toMatchObject({ tag: 40, decidedBy: { kind: 'port', name: 'eh-sw-01 port 7' } });
  // The mend was the last edit that was rolled out.
  const { id } = await estate.draft();
  await estate.call('POST', `/api/drafts/${id}/undo`);
  const drafted = await walk('draft');
  expect(drafted.steps.at(-1)).toMatchObject({ kind: 'link', passed: false, title: 'Stopped at eh-sw-01 port 7' });
  expect((await walk('live')).arrived).toBe(true);
  await estate.call('POST', `/api/drafts/${id}/redo`);
  expect((await walk('draft')).arrived).toBe(true);
});

test('a rollout that takes management off the AP’s port is taken back by the switch itself', async () => {
  const { roster, site } = await estate.siteDraft(siteId);
  const deviceId = roster.find((device: { serial: string }) => device.serial === SWITCH).id;
  const before = (await estate.device(SWITCH)).runs;
  await estate.edit([{ type: 'port.untagged', siteId, deviceId, port: '7', from: site.managementId, to: null }]);
  const { id } = await estate.draft();
  expect(await estate.refused('POST', '/api/rollouts', { draftId: id })).toMatchObject({
    status: 409,
    type: 'about:lattice/rollout.findings',
  });
  const rollout = await estate.rollOut(true);
  expect(rollout.state).toBe('put-back');
  expect(rollout.reason).toBe(
    'eh-sw-01 went back by itself: with its new document eh-ap-01 no longer reached the controller.',
  );
  expect((await estate.device(SWITCH)).runs).toBe(before);
  await estate.until('AP is reached again', async () => (await estate.device(AP)).reaches);
  await estate.allInStep(siteId);
  await estate.call('POST', `/api/drafts/${id}/undo`);
});

test('everything is as it was after a stop and a start', async () => {
  await estate.edit([
    { type: 'segment.set', siteId, segmentId, from: { name: 'Harbour' }, to: { name: 'Harbour side' } },
  ]);
  const before = await estate.siteDraft(siteId);
  await estate.stopFleet();
  await estate.stopController();
  await estate.startController();
  estate.startFleet();
  await estate.allInStep();
  const after = await estate.siteDraft(siteId);
  expect(after.site).toEqual(before.site);
  expect(after.draft).toEqual(before.draft);
  expect((await walk('live')).arrived).toBe(true);
});

test.each([
  ['killed', 'SIGKILL', 2],
  ['stopped', 'SIGTERM', 3],
] as const)(
  'a rollout goes on after the controller was %s in the middle; no device runs half a document',
  async (_how, signal, revision) => {
    const { site } = await estate.siteDraft(siteId);
    const { name } = site.segments.find((segment: { id: string }) => segment.id === segmentId);
    await estate.edit([{ type: 'segment.set', siteId, segmentId, from: { name }, to: { name: `Harbour ${signal}` } }]);
    const { id } = await estate.call('POST', '/api/rollouts', {
      draftId: (await estate.draft()).id,
      despiteErrors: true,
    });
    await estate.until('the first device is being told', async () => {
      const { steps } = await estate.call('GET', `/api/rollouts/${id}`);
      return steps.some((step: { state: string }) => step.state !== 'waiting');
    });
    await estate.stopController(signal);
    await estate.startController();
    const over = await estate.rolloutOver(id);
    expect(over).toMatchObject({ state: 'done', revision });
    expect(over.steps.map((step: { state: string }) => step.state)).not.toContain('later');
    await estate.allInStep();
    const devices = await estate.call('GET', `/api/sites/${siteId}/devices`);
    for (const device of devices) expect((await estate.device(device.serial)).runs).toBe(device.wants);
  },
);
