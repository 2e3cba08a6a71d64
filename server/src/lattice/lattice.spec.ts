import { randomUUID } from 'node:crypto';
import type { SiteDraft } from '@iron-lattice/core/assess';
import type { Operation, Segment } from '@iron-lattice/core/intent';
import type { AddressPlan, RecipeStamp, SegmentListPreview, SiteClient } from '@iron-lattice/core/lattice';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Device } from '../roster/device.model';
import { TestController, type TestCaller } from '../testing/test-controller';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
});
afterAll(() => setting.end());

const site = (): Promise<SiteDraft> => ada.get(`/api/drafts/current/sites/${siteId}`);
const draftId = async (): Promise<string> => (await ada.get('/api/drafts/current')).id;
async function edit(...operations: Operation[]) {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations });
}
const segmentNamed = async (name: string): Promise<Segment> =>
  (await site()).site.segments.find((segment) => segment.name === name)!;

test('a segment keeps everything it is told, and an undo takes back just that', async () => {
  const crew = await segmentNamed('Crew');
  const to = {
    domain: 'crew.skerrow.example',
    v6: { prefix: '2001:db8:10::/64', gateway: '2001:db8:10::1', mode: 'slaac' as const },
    addresses: {
      first: '10.5.10.50',
      last: '10.5.10.99',
      leaseSeconds: 3600,
      also: [{ first: '10.5.10.120', last: '10.5.10.130' }],
      reservations: [{ mac: '02:00:00:00:00:0A', address: '10.5.10.5', name: 'Printer' }],
      options: [{ code: 43, value: '0x0102' }],
    },
  };
  const from = { domain: null, v6: null, addresses: null };
  expect((await edit({ type: 'segment.set', siteId, segmentId: crew.id, from, to })).status).toBe(200);
  expect(await segmentNamed('Crew')).toMatchObject({
    domain: 'crew.skerrow.example',
    addresses: { reservations: [{ mac: '02:00:00:00:00:0a', address: '10.5.10.5', name: 'Printer' }] },
  });
  await ada.ask('POST', `/api/drafts/${await draftId()}/undo`, {});
  expect(await segmentNamed('Crew')).toEqual(crew);
  await ada.ask('POST', `/api/drafts/${await draftId()}/redo`, {});
});

test('a port takes a duty and exceptions; a duty in use and a segment in a duty stay', async () => {
  const { roster, site: part } = await site();
  const [device] = roster;
  const crew = await segmentNamed('Crew');
  const duty = { id: randomUUID(), name: 'Desk', untagged: crew.id, tagged: [], storm: 5 };
  const at = { siteId, deviceId: device!.id, port: '3' };
  await edit({ type: 'duty.add', siteId, duty });
  await edit({ type: 'port.set', ...at, from: null, to: { dutyId: duty.id, poe: 'off' } });
  expect((await site()).site.ports[device!.id]!['3']).toEqual({ dutyId: duty.id, poe: 'off' });
  const refused = await edit({ type: 'duty.remove', siteId, dutyId: duty.id });
  expect(refused.json.title).toBe('“Desk” is the duty of 1 port. Give them another first.');
  const kept = await edit({ type: 'segment.remove', siteId, segmentId: crew.id });
  expect(kept.json.title).toBe('“Crew” is still in the duty “Desk”. Take it out there first.');
  const stale = await edit({ type: 'port.set', ...at, from: null, to: null });
  expect(stale.json.title).toContain('Somebody changed Port 3 of pr-sw-01 meanwhile.');
  const fast = await edit({ type: 'port.set', ...at, from: { dutyId: duty.id, poe: 'off' }, to: { speed: 10_000 } });
  expect(fast.json.title).toBe('Port 3 of pr-sw-01 does 1000 Mb/s at most.');
  expect(part.managementId).not.toBe(crew.id);
});

test('a pool of VLANs is kept in canonical form, and one that cannot be read is refused', async () => {
  const pool = { id: randomUUID(), name: 'Visitors', vlans: '12, 10-11' };
  await edit({ type: 'pool.add', siteId, pool });
  expect((await site()).site.pools).toEqual([{ ...pool, vlans: '10-12' }]);
  expect((await site()).consequences.findings.map((finding) => finding.code)).toContain('lattice.pool-unknown');
  const words = async (vlans: string) =>
    (await edit({ type: 'pool.set', siteId, poolId: pool.id, from: { vlans: '10-12' }, to: { vlans } })).json.title;
  expect(await words('30-20')).toBe('A range ends before it starts.');
  expect(await words('2-80, 4095')).toBe('VLAN IDs go from 1 to 4094.');
  await edit({ type: 'pool.remove', siteId, poolId: pool.id });
});

test('segments go out as CSV and come back without an edit; a changed row is an edit, a bad one says why', async () => {
  const id = await draftId();
  const csv = await (await ada.fetch('GET', `/api/drafts/${id}/sites/${siteId}/segments/csv`)).text();
  expect(csv.split('\r\n')[0]).toContain('name,vlan id,subnet');
  const look = async (text: string): Promise<SegmentListPreview> =>
    (await ada.upload(`/api/drafts/${id}/sites/${siteId}/segment-list`, text)).json;
  expect((await look(csv)).operations).toEqual([]);
  const changed = await look(`${csv.replace('crew.skerrow.example', 'deck.skerrow.example')}Voice,60\r\nCams,9999\r\n`);
  expect(changed.operations.map((operation) => operation.type)).toEqual(['segment.set', 'segment.add']);
  expect(changed.rows.at(-1)).toMatchObject({ good: null, flaws: [{ code: 'segment.vlan-range', field: 'vlan' }] });
  expect((await edit(...changed.operations)).status).toBe(200);
  expect(await segmentNamed('Voice')).toMatchObject({ vlan: 60, subnet: '10.5.60.0/24' });
});

test('segments go out as open formats, under a name that says what they are', async () => {
  const get = async (format: string) =>
    ada.fetch('GET', `/api/drafts/${await draftId()}/sites/${siteId}/segments/${format}`);
  const ietf = await get('ietf');
  expect(ietf.headers.get('content-disposition')).toBe('attachment; filename="pr-interfaces.json"');
  expect(((await ietf.json()) as any)['ietf-interfaces:interfaces'].interface.map((each: any) => each.name)).toEqual([
    'vlan1',
    'vlan10',
    'vlan60',
  ]);
  const kea = (await (await get('kea')).json()) as any;
  expect(kea.Dhcp4.subnet4[0]).toMatchObject({ id: 10, pools: [{ pool: '10.5.10.50 - 10.5.10.99' }, {}] });
});

test('the address plan says what is used, and where the next free prefix is', async () => {
  await Device.update(
    {
      address: '10.5.1.9',
      report: {
        address: '10.5.1.9',
        uptime: 1,
        neighbours: [],
        uplinks: [],
        counters: [],
        clients: [{ mac: '0e:00:00:00:00:01', ssid: 'Deck', vlan: 10, address: '10.5.10.50', since: 5 }],
        wired: [{ mac: '0e:00:00:00:00:02', port: '3', vlan: 10, since: 6 }],
        leases: [
          { vlan: 10, mac: '0e:00:00:00:00:01', address: '10.5.10.50', since: 4, name: 'phone' },
          { vlan: 10, mac: '0e:00:00:00:00:02', address: '10.5.10.51', since: 4, name: 'till' },
        ],
      },
    },
    { where: { serial: 'SW-0001' } },
  );
  const plan: AddressPlan = await ada.get(`/api/drafts/${await draftId()}/address-plan`);
  expect(plan.entries.map(({ name, prefix, used, capacity }) => [name, prefix, used, capacity])).toEqual([
    ['Management', '10.5.1.0/24', null, null],
    ['Crew', '10.5.10.0/24', 3, 62],
    ['Voice', '10.5.60.0/24', 0, 235],
    ['Crew', '2001:db8:10::/64', null, null],
  ]);
  const next = async (parent: string, length: number) =>
    ada.ask('GET', `/api/drafts/${await draftId()}/next-free-prefix?parent=${parent}&length=${length}`);
  expect((await next('10.5.0.0/16', 24)).json).toEqual({ prefix: '10.5.0.0/24' });
  expect((await next('10.5.10.0/24', 24)).json.title).toBe('No /24 is free in 10.5.10.0/24.');
  const clients: SiteClient[] = await ada.get(`/api/sites/${siteId}/clients`);
  expect(clients.map(({ name, address, at }) => [name, address, at?.ssid ?? at?.port])).toEqual([
    ['phone', '10.5.10.50', 'Deck'],
    ['till', '10.5.10.51', '3'],
  ]);
});

test('a recipe is stamped into sites after it was looked at', async () => {
  const recipe = {
    id: randomUUID(),
    name: 'Radio',
    vlan: 77,
    purpose: '',
    domain: '',
    length: 26,
    parent: null,
    leaseSeconds: 3600,
  };
  await edit({ type: 'recipe.add', recipe });
  const stamps: RecipeStamp[] = await ada.post(`/api/drafts/${await draftId()}/recipes/${recipe.id}/stamp`, {
    siteIds: [siteId],
  });
  expect(stamps).toMatchObject([{ does: 'add', subnet: '10.5.77.0/26', flaws: [] }]);
  expect((await edit(...stamps[0]!.operations)).status).toBe(200);
  expect(await segmentNamed('Radio')).toMatchObject({ recipeId: recipe.id, vlan: 77 });
});
