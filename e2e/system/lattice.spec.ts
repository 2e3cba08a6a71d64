import { afterAll, beforeAll, expect, test } from 'vitest';
import { Estate } from './estate';

/** At Brinmouth: the gateway, the switch the ticket printers hang on, and a printer. */
const [GATEWAY, SWITCH, PRINTER] = ['3A1-0114-52', '5C2-0121-53', '0e:c4:50:00:00:01'];

let estate: Estate;
let siteId = '';
beforeAll(async () => {
  estate = await Estate.start();
  await estate.signIn();
  await estate.allInStep();
  siteId = (await estate.site('Brinmouth')).id;
});
afterAll(() => estate.end());

const segment = async (name: string) =>
  (await estate.siteDraft(siteId)).site.segments.find((each: { name: string }) => each.name === name);
const clientWith = async (mac: string) =>
  (await estate.call('GET', `/api/sites/${siteId}/clients`)).find((each: { mac: string }) => each.mac === mac);

test('what a segment tells its clients is what they get, once it is rolled out', async () => {
  await estate.until('its lease is reported', async () => (await clientWith(PRINTER))?.leasedBy);
  expect(await clientWith(PRINTER)).toMatchObject({
    name: 'ticket-printer-1',
    address: '10.12.20.5',
    leasedBy: 'bm-gw-01',
    at: { deviceName: 'bm-sw-01', port: '11' },
  });
  const ticketing = await segment('Ticketing');
  const { addresses } = ticketing;
  const reservations = [{ ...addresses.reservations[0], address: '10.12.20.9' }, addresses.reservations[1]];
  const to = { addresses: { ...addresses, reservations } };
  await estate.edit([{ type: 'segment.set', siteId, segmentId: ticketing.id, from: { addresses }, to }]);
  expect((await clientWith(PRINTER)).address).toBe('10.12.20.5'); // a draft is heard by no device
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.until(
    'the printer has its new address',
    async () => (await clientWith(PRINTER)).address === '10.12.20.9',
  );
});

test('clients have IPv6 addresses where a segment has a prefix, by their own making or given, once it is rolled out', async () => {
  const ticketing = await segment('Ticketing');
  expect((await clientWith(PRINTER)).address6).toBeNull();
  const prefix = { prefix: 'fd4c:9a21:12:20::/64', gateway: 'fd4c:9a21:12:20::1' };
  const own = { ...prefix, mode: 'slaac' };
  const edit = (from: object | undefined, to: object) =>
    estate.edit([{ type: 'segment.set', siteId, segmentId: ticketing.id, from: { v6: from ?? null }, to: { v6: to } }]);
  await edit(ticketing.v6, own);
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.until(
    'the printer has made itself an address',
    async () => (await clientWith(PRINTER)).address6 === 'fd4c:9a21:12:20:cc4:50ff:fe00:1',
  );
  await edit(own, {
    ...prefix,
    mode: 'stateful',
    first: 'fd4c:9a21:12:20::100',
    last: 'fd4c:9a21:12:20::1ff',
  });
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.until('it is given one', async () => /::1../.test((await clientWith(PRINTER)).address6));
});

test('a switch gives the addresses where it is told to, and the gateway no longer does', async () => {
  const ticketing = await segment('Ticketing');
  const { addresses } = ticketing;
  const { roster } = await estate.siteDraft(siteId);
  const deviceId = roster.find((device: { serial: string }) => device.serial === SWITCH).id;
  const to = { addresses: { ...addresses, from: { kind: 'switch', deviceId, address: '10.12.20.2' } } };
  await estate.edit([{ type: 'segment.set', siteId, segmentId: ticketing.id, from: { addresses }, to }]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.until('the switch leases it', async () => (await clientWith(PRINTER)).leasedBy === 'bm-sw-01');
  expect((await clientWith(PRINTER)).address).toBe('10.12.20.9');
});

test('power taken off a port is seen there, and all of it is there after a restart', async () => {
  const { site, roster } = await estate.siteDraft(siteId);
  const deviceId = roster.find((device: { serial: string }) => device.serial === SWITCH).id;
  const watts = async () =>
    (await estate.call('GET', `/api/sites/${siteId}/devices`))
      .find((device: { id: string }) => device.id === deviceId)
      .portFacts.find((port: { port: string }) => port.port === '18').watts;
  expect(await watts()).toBe(9.4);
  const from = site.ports[deviceId]['18'];
  await estate.edit([{ type: 'port.set', siteId, deviceId, port: '18', from, to: { ...from, poe: 'off' } }]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.until('the camera has no power', async () => (await watts()) === undefined);
  const before = await estate.siteDraft(siteId);
  await estate.stopController();
  await estate.startController();
  await estate.allInStep(siteId);
  const after = await estate.siteDraft(siteId);
  expect(after.site).toEqual(before.site);
  expect(after.consequences.findings).toEqual(before.consequences.findings);
  expect(await clientWith(PRINTER)).toMatchObject({ address: '10.12.20.9', leasedBy: 'bm-sw-01' });
  expect((await estate.device(GATEWAY)).runs).not.toBeNull();
});

test('a subnet of devices with fixed addresses moves with them, and they stay in step', async () => {
  const depot = (await estate.site('Dunmere Depot')).id;
  const devices = () => estate.call('GET', `/api/sites/${depot}/devices`);
  const ap = (await devices()).find((device: { name: string }) => device.name === 'dd-ap-01');
  const fixed = { address: '10.14.1.9', length: '24', gateway: '10.14.1.1', dns: '10.14.1.1' };
  await estate.call('PATCH', `/api/devices/${ap.id}`, { fixed });
  await estate.allInStep(depot);
  const { site } = await estate.siteDraft(depot);
  const management = site.segments.find((each: { id: string }) => each.id === site.managementId);
  const { subnet, gateway, addresses } = management;
  const to = {
    subnet: '10.99.1.0/24',
    gateway: '10.99.1.1',
    addresses: { ...addresses, first: '10.99.1.20', last: '10.99.1.254' },
  };
  await estate.edit([
    { type: 'segment.set', siteId: depot, segmentId: management.id, from: { subnet, gateway, addresses }, to },
  ]);
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.allInStep(depot);
  const moved = (await devices()).find((device: { id: string }) => device.id === ap.id);
  expect(moved).toMatchObject({ address: '10.99.1.9', fixed: { address: '10.99.1.9', gateway: '10.99.1.1' } });
});

test('the socket of an AP has a duty of its own, and what it needs is carried to it', async () => {
  const vessel = (await estate.site('Petrel')).id;
  const printer = '0e:c4:50:00:00:03';
  const seen = async () =>
    (await estate.call('GET', `/api/sites/${vessel}/clients`)).find((each: { mac: string }) => each.mac === printer);
  expect(await seen()).toMatchObject({ name: 'cabin-printer', vlan: 10, at: { deviceName: 'pt-ap-02', port: '1' } });
  const { site, roster } = await estate.siteDraft(vessel);
  const ap = roster.find((device: { name: string }) => device.name === 'pt-ap-02');
  const voice = site.segments.find((each: { name: string }) => each.name === 'Voice');
  const edit = { type: 'port.set', siteId: vessel, deviceId: ap.id };
  // The uplink of an AP is not for anybody to change.
  await expect(
    estate.edit([{ ...edit, port: 'lan', from: null, to: { untagged: voice.id, tagged: [] } }]),
  ).rejects.toThrow();
  const from = site.ports[ap.id]['1'];
  await estate.edit([{ ...edit, port: '1', from, to: { ...from, untagged: voice.id } }]);
  const finding = (await estate.siteDraft(vessel)).consequences.findings.find((each: { message: string }) =>
    each.message.startsWith('Voice stops at'),
  );
  expect(finding.message).toBe('Voice stops at pt-sw-01 port 2');
  await estate.edit(finding.mend.operations);
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.until('the printer is in Voice', async () => /^10\.\d+\.60\./.test((await seen()).address));
});
