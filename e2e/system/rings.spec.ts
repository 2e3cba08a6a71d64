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
  ...{ name, key: text, segment: null, macs: [], most: null, from: null, until: null, note: '' },
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
  await estate.until('all APs have the ring', async () => {
    const { aps, told } = await ring();
    return aps > 0 && told === aps;
  });
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
