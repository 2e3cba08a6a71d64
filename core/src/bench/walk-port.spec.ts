import { expect, test } from 'vitest';
import type { DeviceDocument, PortDocument } from '../document';
import { resolve } from '../intent';
import type { End, Exchange } from '../radius';
import { compileSite } from '../rollout';
import { sampleId, sampleSite } from '../testing';
import { portalOf, portAsks, walk, type AskedOne, type PortProbe, type WalkFacts } from '.';

const sample = sampleSite({ segments: 3, aps: 1 });
const base = compileSite(resolve(sample.intent.estate, sample.site), sample.roster);
const gateway = sampleId(2, 0);
const switchId = sample.roster.find(({ model }) => model.startsWith('SW'))!.id;
const taken = sample.links.flatMap(({ a, b }) => [a, b]).find(({ deviceId }) => deviceId === switchId)!.port;
const free = base
  .get(switchId)!
  .ports.find(
    ({ name }) =>
      !sample.links.some(({ a, b }) => [a, b].some((end) => end.deviceId === switchId && end.port === name)),
  )!.name;
const TILL = '0e:c4:50:00:00:01';
const server = {
  ...{
    name: 'Quay',
    address: '198.51.100.90',
    port: 1812,
    secret: { secret: 's' },
    order: 1,
    timeout: 3,
    tries: 3,
    dead: 300,
  },
  macs: 'none_lower' as const,
};

/** The documents with one free port said otherwise, a class by list and one by name, and a server. */
function documents(change: Partial<PortDocument> = {}, asks = true): Map<string, DeviceDocument> {
  const box = base.get(switchId)!;
  const ports = box.ports.map((each) => (each.name === free ? { ...each, untagged: 10, ...change } : each));
  return new Map(base).set(switchId, {
    ...box,
    ports,
    classes: [
      { id: 'tills', name: 'Tills', vlan: 30, members: [TILL] },
      { id: 'crew', name: 'Crew', vlan: 20, members: [] },
      { id: 'lost', name: 'Lost', vlan: null, members: [] },
    ],
    ...(asks ? { radius: { servers: [server], segments: [{ vlan: 20, name: 'Segment 2' }] } } : {}),
  });
}
const facts: WalkFacts = {
  ...{ taken: new Set(), minute: 0 },
  uplinks: new Map([[`${gateway} wan1`, { up: true, address: '203.0.113.11' }]]),
};
const said = (end: End, more: Partial<Exchange> = {}): AskedOne[] => [
  {
    server: 'Quay',
    exchange: {
      ...{ end, why: '', address: '198.51.100.90', packets: [], sent: 1, ms: 4, filterIds: [], sessionSeconds: null },
      ...{ vlan: { kind: 'none' as const, text: '' }, ...more },
    },
  },
];
const probe: PortProbe = { deviceId: switchId, port: free };
const marn = { entry: { method: 'eap-ttls', user: 'marn.ellis', password: 'lantern fish 4' } } as const;
const go = (change: Partial<PortDocument>, of: Partial<PortProbe> = {}, askedBy?: WalkFacts['askedBy']) =>
  walk(documents(change), sample.links, { ...probe, ...of }, { ...facts, ...(askedBy ? { askedBy } : {}) });
/** Up to where it lands: titles, and the VLAN. */
const way = (...of: Parameters<typeof go>): string[] =>
  go(...of)
    .steps.slice(1)
    .filter(({ kind }) => ['authenticate', 'asked', 'vlan'].includes(kind))
    .map(({ title }) => title);

test('a port that asks nothing puts a client into its own segment, and on to the internet; without one it gets nowhere', () => {
  const { steps, arrived } = go({ auth: undefined });
  expect(arrived).toBe(true);
  expect(steps[0]).toMatchObject({ kind: 'associate', passed: true, decidedBy: { kind: 'port', port: free } });
  expect(steps[1]).toMatchObject({ title: 'VLAN 10', detail: `Port ${free} carries VLAN 10 untagged.` });
  expect(steps.at(-1)).toMatchObject({ kind: 'internet', passed: true });
  expect(go({ untagged: null, tagged: [20] }).steps.at(-1)).toMatchObject({ passed: false, title: 'Nothing for it' });
});

test('where a device of ours hangs, and out of hours, nobody is plugged in', () => {
  expect(go({}, { port: taken }).steps).toMatchObject([{ title: 'Taken', passed: false }]);
  const hours = { id: 'h', name: 'Office hours', times: [{ days: [1], from: '08:00', to: '09:00' }] } as never;
  expect(go({ hours }).steps).toMatchObject([{ title: 'Not in use now', passed: false }]);
  expect(go({}, { port: 'none' }).steps).toMatchObject([{ title: 'Nothing to plug into' }]);
});

test('ways are tried in the order of the port, each with what servers really said, and the first that knows it counts', () => {
  const both = { auth: '802.1X-mac' } as Partial<PortDocument>;
  const crew = said('accepted', { filterIds: ['crew'] });
  expect(way(both, marn, { '802.1X': crew })).toEqual(['Says who it is', 'Quay lets in', 'VLAN 20']);
  const { steps } = go(both, marn, { '802.1X': crew });
  expect(steps.find(({ kind }) => kind === 'asked')!.exchange).toBe(crew[0]!.exchange);
  expect(steps.find(({ kind }) => kind === 'vlan')!.decidedBy).toMatchObject({ kind: 'class', name: 'Crew' });
  // It says nothing: its address is looked at.
  expect(way(both, { mac: TILL })).toEqual(['Asked who it is', 'Known', 'VLAN 30']);
  expect(way(both, { mac: '0e:c4:50:00:00:09' }, { mac: crew })).toEqual([
    'Asked who it is',
    'Known by its address?',
    'Quay lets in',
    'VLAN 20',
  ]);
  expect(way({ auth: 'mac' }, { mac: TILL })).toEqual(['Known', 'VLAN 30']);
});

test('whom nothing lets in lands where the port has such, or nowhere, and it is said why', () => {
  const asks = { auth: '802.1X', untagged: null } as Partial<PortDocument>;
  expect(way({ ...asks, guest: 20 })).toEqual(['Asked who it is', 'VLAN 20']);
  expect(way(asks)).toEqual(['Asked who it is', 'Let in nowhere']);
  const rejected = { '802.1X': said('rejected') };
  expect(way({ ...asks, rejected: 30 }, marn, rejected)).toEqual(['Says who it is', 'Quay turns away', 'VLAN 30']);
  expect(go(asks, marn, rejected).steps.at(-1)!.detail).toContain('“Quay” does not let it in');
  expect(way({ ...asks, unanswered: 20 }, marn, { '802.1X': said('silent') })).toEqual([
    'Says who it is',
    'Quay: no answer',
    'VLAN 20',
  ]);
  const strange = { '802.1X': said('accepted', { filterIds: ['Mates'] }) };
  expect(way(asks, marn, strange)).toEqual(['Says who it is', 'Quay lets in', 'Leads nowhere', 'Let in nowhere']);
  const lost = said('accepted', { filterIds: ['lost'] });
  expect(way(asks, marn, { '802.1X': lost })).toEqual([
    'Says who it is',
    'Quay lets in',
    'Leads nowhere',
    'Let in nowhere',
  ]);
});

test('servers are asked for whoever says who it is, and for addresses that no class lists, and for nobody else', () => {
  const both = documents({ auth: '802.1X-mac' });
  const ways = (of: Partial<PortProbe>, all = both) =>
    portAsks(all, { ...probe, ...of })?.ways.map(([way, { user }]) => `${way} ${user}`) ?? [];
  expect(ways({ ...marn, mac: '0e:c4:50:00:00:09' })).toEqual(['802.1X marn.ellis', 'mac 0e:c4:50:00:00:09']);
  expect(ways({ mac: TILL })).toEqual([]);
  expect(ways({})).toEqual([]);
  expect(ways(marn, documents({ auth: '802.1X' }, false))).toEqual([]);
  // Who may not have anybody asked is told so.
  expect(way({ auth: '802.1X' }, marn)).toContain('Not asked');
});

test('a portal of a port holds whom nobody knows there; whoever is known is held by the one that an answer names, or by none', () => {
  const portal = { id: 'p', name: 'Visitors' };
  const held = (...of: Parameters<typeof go>): string[] =>
    go(...of)
      .steps.filter(({ kind }) => kind === 'portal')
      .map(({ title }) => title);
  expect(held({ portal })).toEqual(['Held back by “Visitors”']);
  expect(go({ portal }, { letIn: true })).toMatchObject({ arrived: true });
  const asks = { auth: '802.1X', untagged: 10, guest: 20, portal } as Partial<PortDocument>;
  expect(held(asks)).toEqual(['Held back by “Visitors”']); // it does not say who it is
  const crew = { '802.1X': said('accepted', { filterIds: ['Crew'] }) };
  expect(go(asks, marn, crew)).toMatchObject({ arrived: true });
  const named = new Map(documents(asks));
  const box = named.get(switchId)!;
  named.set(switchId, { ...box, radius: { ...box.radius!, portals: [{ id: 'q', name: 'Contractors' }] } });
  const answer = { '802.1X': said('accepted', { filterIds: ['Contractors'] }) };
  const sent = { ...facts, askedBy: answer };
  expect(walk(named, sample.links, { ...probe, ...marn }, sent).steps.at(-1)).toMatchObject({
    ...{ passed: false, title: 'Held back by “Contractors”' },
  });
  expect(portalOf(named, { ...probe, ...marn }, sent)).toMatchObject({ id: 'q' });
});
