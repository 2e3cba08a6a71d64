import { expect, test } from 'vitest';
import { apply, resolve, type Intent, type Operation, type Recipe } from '../intent';
import { compileSite } from '../rollout';
import { sampleId, sampleSegment, sampleSite } from '../testing';
import { siteClients } from './clients';
import { latticeGrid } from './lattice-grid';
import { poolSpread } from './pool-spread';
import { stampRecipe } from './recipe-stamp';
import { addressValues, fullnessOf, rowInWords } from './row-in-words';
import { cableKey, segmentStrand } from './segment-strand';
import { traceStrand } from './strand';
import { usualDuties } from './usual-duties';

test('clients are put together from what APs, ports and servers report', () => {
  const clients = siteClients([
    {
      deviceId: 'gw',
      deviceName: 'gw-01',
      mac: '02:00:00:00:01:01',
      neighbours: [{ port: '1', chassis: '02:00:00:00:01:03', theirPort: '9' }],
      clients: [],
      wired: [],
      leases: [
        { vlan: 10, mac: '02:00:00:00:00:01', address: '10.1.10.20', since: 5, name: 'deck-phone' },
        { vlan: 20, mac: '02:00:00:00:00:02', address: '10.1.20.20', since: 6, name: 'till-1' },
        { vlan: 10, mac: '02:00:00:00:00:09', address: '10.1.10.9', since: 7 },
        { vlan: 1, mac: '02:00:00:00:01:03', address: '10.1.1.20', since: 3 },
      ],
    },
    {
      deviceId: 'ap',
      deviceName: 'ap-01',
      mac: '02:00:00:00:01:02',
      neighbours: [],
      clients: [
        { mac: '02:00:00:00:00:01', ssid: 'Crew', vlan: 10, address: '10.1.10.20', address6: 'fd00::a', since: 11 },
      ],
      wired: [],
      leases: [],
    },
    {
      deviceId: 'sw',
      deviceName: 'sw-01',
      mac: '02:00:00:00:01:03',
      neighbours: [],
      clients: [],
      wired: [
        { mac: '02:00:00:00:00:02', port: '7', vlan: 20, since: 12, address6: 'fd00::b' },
        { mac: '02:00:00:00:00:03', port: '8', vlan: 20 },
      ],
      leases: [],
    },
  ]);
  expect(
    clients.map(({ mac, name, address, at, since }) => [
      mac.slice(-2),
      name,
      address,
      at?.ssid ?? at?.port ?? null,
      since,
    ]),
  ).toEqual([
    ['03', 'sw-01', '10.1.1.20', '1', 3], // a device of ours, at the port where its neighbour hears it
    ['09', '', '10.1.10.9', null, 7],
    ['01', 'deck-phone', '10.1.10.20', 'Crew', 11],
    ['02', 'till-1', '10.1.20.20', '7', 12],
    ['03', '', null, '8', null],
  ]);
  expect(clients.map(({ address6 }) => address6)).toEqual([null, null, 'fd00::a', 'fd00::b', null]);
});

test('a pool spreads clients evenly, and few move when it grows', () => {
  const macs = Array.from(
    { length: 4000 },
    (_, i) => `02:00:00:00:${(i >> 8).toString(16).padStart(2, '0')}:${(i & 255).toString(16).padStart(2, '0')}`,
  );
  const { counts, moved } = poolSpread(macs, [10, 20, 30, 40, 50], [10, 20, 30, 40]);
  for (const { clients } of counts) expect(Math.abs(clients - 800)).toBeLessThan(120);
  expect(Math.abs(moved - 800)).toBeLessThan(120); // a fifth of them, all to the new one
  expect(poolSpread(macs, [10, 20], [20, 10]).moved).toBe(0);
});

const recipe: Recipe = {
  id: 'recipe',
  name: 'Lifeboat radio',
  vlan: 77,
  purpose: 'Ship to shore',
  domain: 'radio.skerrow.example',
  length: 26,
  parent: null,
  leaseSeconds: 3600,
};

test('a recipe gives each site a subnet of its own, and stamping again changes only what differs', () => {
  const sample = sampleSite({ segments: 2, aps: 0 });
  const second = {
    ...sample.site,
    id: sampleId(9, 1),
    name: 'Second',
    code: 'y',
    segments: [{ ...sampleSegment(0, 4), id: sampleId(1, 900) }],
    managementId: sampleId(1, 900),
    ports: {},
  };
  const intent: Intent = { ...sample.intent, sites: new Map([...sample.intent.sites, [second.id, second]]) };
  let id = 0;
  const stamp = (now: Intent, by: Recipe) => stampRecipe(now, by, [sample.site.id, second.id], () => `s${id++}`);
  const play = (now: Intent, operations: readonly Operation[]): Intent =>
    operations.reduce((so, operation) => {
      const result = apply(so, operation, () => undefined);
      if (!result.ok) throw new Error(result.flaws[0]!.message);
      return result.intent;
    }, now);
  const first = stamp(intent, recipe);
  expect(first.map(({ does, subnet }) => [does, subnet])).toEqual([
    ['add', '10.1.77.0/26'],
    ['add', '10.5.77.0/26'],
  ]);
  const stamped = play(
    intent,
    first.flatMap((each) => each.operations),
  );
  expect(stamp(stamped, recipe).map((each) => each.does)).toEqual(['same', 'same']);
  const longer = stamp(stamped, { ...recipe, leaseSeconds: 7200 });
  expect(longer.map((each) => [each.does, each.subnet])).toEqual([
    ['change', '10.1.77.0/26'],
    ['change', '10.5.77.0/26'],
  ]);
  const parent = stampRecipe(
    intent,
    { ...recipe, parent: '172.20.0.0/25' },
    [...intent.sites.keys()],
    () => `p${id++}`,
  );
  expect(parent.map((each) => each.subnet)).toEqual(['172.20.0.0/26', '172.20.0.64/26']);
  const tight = stampRecipe(intent, { ...recipe, parent: '172.20.0.0/26' }, [...intent.sites.keys()], () => `q${id++}`);
  expect(tight.map((each) => [each.does, each.flaws[0]?.code])).toEqual([
    ['add', undefined],
    ['refused', 'recipe.no-space'],
  ]);
});

test('usual duties follow from what is plugged in, and with them every strand is whole', () => {
  const sample = sampleSite({ segments: 5, aps: 25 });
  const bare = { ...sample.site, ports: { [sampleId(3, 0)]: { '26': { untagged: null, tagged: [] } } } };
  const compiled = (intent: Intent) => {
    const site = resolve(intent.estate, intent.sites.get(bare.id)!);
    return { site, documents: compileSite(site, sample.roster) };
  };
  let intent: Intent = { ...sample.intent, sites: new Map([[bare.id, bare]]) };
  const before = compiled(intent);
  const duties = usualDuties(before.site, sample.roster, before.documents, sample.links);
  expect(duties.find((each) => each.peer === 'x-sw-02')).toMatchObject({ port: '26' });
  for (const { operation } of duties) {
    const result = apply(intent, operation, (id) => sample.roster.find((device) => device.id === id));
    if (!result.ok) throw new Error(result.flaws[0]!.message);
    intent = result.intent;
  }
  const after = compiled(intent);
  for (const device of sample.roster)
    for (const vlan of [1, 10, 20, 30, 40])
      if (device.name.includes('ap'))
        expect(traceStrand(after.documents, sample.links, device.id, vlan).state).toBe('whole');
  expect(usualDuties(after.site, sample.roster, after.documents, sample.links)).toEqual([]);
});

test('a row reads as one sentence', () => {
  const sample = sampleSite({ segments: 3, aps: 3 });
  const site = resolve(sample.intent.estate, {
    ...sample.site,
    ports: { [sampleId(3, 0)]: { '1': { untagged: sample.site.managementId, tagged: [] } } },
  });
  const { rows, columns } = latticeGrid(site, sample.roster, compileSite(site, sample.roster), sample.links);
  const fullness = fullnessOf(
    rows[1]!.segment,
    addressValues(['10.1.10.20', '10.1.10.21', '10.1.10.21', '10.1.10.3', '10.9.9.9', 'none']),
  );
  expect(fullness).toEqual({ used: 2, capacity: 235 });
  expect(rowInWords(rows[1]!, columns, fullness)).toBe(
    'Segment 1: on SSID 1, 3 APs, 1 switch, routed by x-gw-01, addresses 10.1.10.20–254, 1% used, missing at x-sw-01 port 1, x-sw-01 port 2, x-sw-01 port 3',
  );
});

test('the strand of a segment names its cables from what needs it to the router, and where it stops', () => {
  const { intent, site, roster, links } = sampleSite({ segments: 2, aps: 2 });
  const resolved = resolve(intent.estate, site);
  const crew = resolved.segments[1]!;
  const of = (now: typeof resolved) => segmentStrand(now, roster, compileSite(now, roster), links, crew.id);
  const whole = of(resolved);
  expect(whole.gaps).toEqual([]);
  expect([...whole.devices].sort()).toEqual(roster.map((device) => device.id).sort());
  expect([...whole.cables].sort()).toEqual(links.map(({ a, b }) => cableKey(b, a)).sort());
  const [ap] = links.filter(({ b }) => b.port === 'lan').map(({ a }) => a);
  const closed = { ...site.ports[ap!.deviceId], [ap!.port]: { untagged: site.managementId, tagged: [] } };
  const broken = of(resolve(intent.estate, { ...site, ports: { ...site.ports, [ap!.deviceId]: closed } }));
  expect(broken.gaps).toEqual([`${ap!.deviceId} ${ap!.port}`]);
  expect(segmentStrand(resolved, roster, compileSite(resolved, roster), links, 'none')).toEqual({
    devices: [],
    cables: [],
    gaps: [],
    tunnelled: [],
  });
});
