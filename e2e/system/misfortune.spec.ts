import { afterAll, beforeAll, expect, test } from 'vitest';
import { Estate, freePort } from './estate';
import { startController, stopChild } from '../../tools/stack.mjs';

/** What goes wrong out there, and what people are told of it. */
let estate: Estate;
let siteId = '';
beforeAll(async () => {
  estate = await Estate.start();
  await estate.signIn();
  await estate.allInStep();
  siteId = (await estate.site('Brinmouth')).id;
});
afterAll(() => estate.end());

const [GATEWAY, NEAR_SWITCH, FAR_SWITCH, AP] = ['3A1-0114-52', '5C2-0121-53', '5C2-0128-54', '7K3-0114-52'];
const states = async (): Promise<Record<string, string>> => {
  const devices = await estate.call('GET', `/api/sites/${siteId}/devices`);
  return Object.fromEntries(devices.map((device: { name: string; state: string }) => [device.name, device.state]));
};
const device = async (serial: string) =>
  (await estate.call('GET', `/api/sites/${siteId}/devices`)).find((each: { serial: string }) => each.serial === serial);

async function walk(ssidName: string, apSerial: string) {
  const { estate: shared } = await estate.siteDraft(siteId);
  const ssidId = shared.ssids.find((ssid: { name: string }) => ssid.name === ssidName).id;
  const probe = { ssidId, apId: (await device(apSerial)).id, band: '5', knowsPassphrase: true };
  return estate.call('POST', '/api/walks', { siteId, on: 'live', probe });
}

test('clients of the demo have addresses where their segment is carried, and none where it is not', async () => {
  const ap = await estate.until('reports', async () => {
    const each = await device(AP);
    return each.clients.length === 3 && each;
  });
  const addresses = ap.clients.map((client: { ssid: string; address: string | null }) => [client.ssid, client.address]);
  expect(addresses.filter(([ssid]: [string]) => ssid === 'Skerrow Crew')[0][1]).toMatch(/^10\.12\.10\.\d+$/);
  expect(
    addresses
      .filter(([ssid]: [string]) => ssid === 'Skerrow Passengers')
      .map(([, address]: [string, string]) => address),
  ).toEqual([null, null]);
  const stopped = (await walk('Skerrow Passengers', AP)).steps.at(-1);
  expect(stopped).toMatchObject({ kind: 'link', passed: false, title: 'Stopped at bm-sw-02 port 7' });
});

test('a pulled plug makes what hangs behind it silent, and its return brings everything back into step', async () => {
  await estate.tell({ do: 'power', serial: FAR_SWITCH, on: false });
  await estate.until('bm-sw-02 silent', async () => (await states())['bm-sw-02'] === 'silent');
  await estate.tell({ do: 'power', serial: FAR_SWITCH, on: true });
  await estate.allInStep(siteId);
});

test('with the internet away the controller waits; when it returns nothing was lost', async () => {
  await estate.tell({ do: 'provider', name: 'Tidewire', up: false });
  expect((await estate.device(GATEWAY)).reaches).toBe(false);
  expect((await estate.device(AP)).reaches).toBe(false);
  await estate.tell({ do: 'provider', name: 'Tidewire', up: true });
  await estate.until('uplink is back', async () => (await walk('Skerrow Crew', AP)).arrived);
  await estate.allInStep(siteId);
});

test('a device with another key is turned away and told of; with its own it is welcome again', async () => {
  await estate.tell({ do: 'wrong-key', serial: NEAR_SWITCH, on: true });
  const hitch = await estate.until('people are told', async () => (await estate.hitches('key'))[0]);
  expect(hitch).toMatchObject({ serial: NEAR_SWITCH, who: 'bm-sw-01' });
  expect(hitch.reason).toMatch(/It was turned away\.$/);
  expect((await device(NEAR_SWITCH)).state).toBe('silent');
  await estate.tell({ do: 'wrong-key', serial: NEAR_SWITCH, on: false });
  await estate.allInStep(siteId);
});

test('one device that refuses undoes the rollout for all; the draft keeps its edits and goes through later', async () => {
  const before = (await estate.devices()).map(({ serial, runs }) => [serial, runs]);
  const { findings } = (await estate.siteDraft(siteId)).consequences;
  await estate.edit(findings[0].mend.operations);
  const vlan = {
    id: crypto.randomUUID(),
    name: 'Lockers',
    vlan: 70,
    subnet: '10.12.70.0/24',
    gateway: '10.12.70.1',
    addresses: null,
  };
  await estate.edit([{ type: 'segment.add', siteId, segment: vlan }]);
  await estate.tell({ do: 'refuse', serial: FAR_SWITCH, reason: 'flash is full' });
  const failed = await estate.rollOut();
  expect(failed).toMatchObject({ state: 'put-back', reason: 'bm-sw-02: It refused its document: flash is full.' });
  expect(failed.steps.map((step: { name: string; state: string }) => [step.name, step.state])).toEqual([
    ['bm-gw-01', 'put-back'],
    ['bm-sw-01', 'put-back'],
    ['bm-sw-02', 'failed'],
  ]);
  await estate.allInStep(siteId);
  expect((await estate.devices()).map(({ serial, runs }) => [serial, runs])).toEqual(before);
  expect(await estate.draft()).toMatchObject({ state: 'open', edits: 2 });
  await estate.tell({ do: 'refuse', serial: FAR_SWITCH, reason: null });
  expect(await estate.rollOut()).toMatchObject({ state: 'done', revision: 1 });
  const ap = await estate.until('passengers get addresses', async () => {
    const each = await device(AP);
    return each.clients.every((client: { address: string | null }) => client.address !== null) && each;
  });
  expect(ap.clients.map((client: { ssid: string }) => client.ssid)).toContain('Skerrow Passengers');
});

test('a second controller of the same database serves the same estate, and reaches devices on the first one’s lines', async () => {
  const { child, url } = await startController({ ...estate.settings, LATTICE_PORT: String(await freePort()) });
  try {
    const there = (method: string, path: string, body?: unknown) =>
      fetch(`${url}${path}`, {
        method,
        headers: { cookie: estate.cookie, 'content-type': 'application/json' },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      }).then((response) => response.json());
    expect((await there('GET', '/healthz')).lines).toBe(0);
    expect((await there('GET', '/api/session')).person.name).toBe('Ida Holm');
    await estate.allInStep(); // its start did not take the other’s lines for dead
    const { id } = await device(GATEWAY);
    expect(await there('POST', `/api/devices/${id}/commands`, { name: 'ping', target: '10.12.1.1' })).toEqual({
      ok: true,
      text: '10.12.1.1 answers.',
    });
    const draft = await there('GET', '/api/drafts/current');
    const segment = {
      id: crypto.randomUUID(),
      name: 'Slip',
      vlan: 71,
      subnet: '10.12.71.0/24',
      gateway: '10.12.71.1',
      addresses: null,
    };
    await there('POST', `/api/drafts/${draft.id}/operations`, {
      head: draft.head,
      operations: [{ type: 'segment.add', siteId, segment }],
    });
    const rollout = await there('POST', '/api/rollouts', { draftId: draft.id, despiteErrors: false });
    expect(await estate.rolloutOver(rollout.id)).toMatchObject({ state: 'done', revision: 2 });
  } finally {
    await stopChild(child);
  }
  await estate.allInStep();
});
