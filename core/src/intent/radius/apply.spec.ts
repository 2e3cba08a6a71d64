import { expect, test } from 'vitest';
import { classBySaid, secretsOf, type DeviceDocument } from '../../document';
import { compileSite } from '../../rollout';
import { applied, sampleId, sampleSite } from '../../testing';
import { apply } from '../apply';
import type { Operation } from '../registry';
import { resolve } from '../resolve';
import { USUAL_SERVER, type RadiusServer } from './radius';
import { secretsOfRadius } from './secrets';

const sample = sampleSite({ segments: 3, aps: 2 });
const { intent, site, roster } = sample;
const server = (change: Partial<RadiusServer> = {}): RadiusServer => ({
  ...USUAL_SERVER,
  ...{ id: sampleId(7, 0), name: 'Quay', address: '198.51.100.90', secret: { secret: sampleId(7, 9) } },
  ...{ reach: { kind: 'estate' as const }, ...change },
});
const add = (change: Partial<RadiusServer> = {}): Operation => ({ type: 'radius.add', radius: server(change) });
const flawsOf = (of: typeof intent, operation: Operation): string[] => {
  const result = apply(of, operation, () => undefined);
  return result.ok ? [] : result.flaws.map(({ code }) => code);
};

test('servers stand in the order in which they are asked; what is wrong with one is told', () => {
  const both = applied(
    intent,
    add(),
    add({ id: sampleId(7, 1), name: 'Anchor', address: 'Radius.Test.Example', order: 2 }),
  );
  const first = applied(both, { type: 'radius.set', radiusId: sampleId(7, 1), from: { order: 2 }, to: { order: 1 } });
  expect([both, first].map(({ estate }) => estate.radius!.map(({ name }) => name).join())).toEqual([
    'Quay,Anchor',
    'Anchor,Quay',
  ]);
  expect(both.estate.radius![1]!.address).toBe('radius.test.example');
  const wrong = (change: Partial<RadiusServer>) => flawsOf(both, add({ id: sampleId(7, 2), ...change }));
  expect(wrong({ name: 'Other', address: '198.51.100.91' })).toEqual([]);
  expect(wrong({ name: 'quay', address: '198.51.100.91' })).toEqual(['radius.name-taken']);
  expect(wrong({ name: ' ', address: '10.1.1' })).toEqual(['radius.name-empty', 'radius.address']);
  expect(wrong({ name: 'Other' })).toEqual(['radius.same']);
  expect(wrong({ name: 'Other', port: 1912 })).toEqual([]);
  for (const address of ['', '-a.example', 'a b', 'x'.repeat(254), '300.1.1.1', 'a..b', 'a_b.example'])
    expect(wrong({ name: 'Other', address })).toEqual(['radius.address']);
  for (const [field, value] of Object.entries({
    port: 0,
    order: 10,
    timeout: 0.5,
    tries: 11,
    dead: -1,
  }))
    expect(wrong({ name: 'Other', address: '2001:db8::7', [field]: value })).toEqual([`radius.${field}`]);
});

test('the controller itself is one of them: without an address, and once at a site', () => {
  const own = { own: true, address: 'anything', port: 1912 } as const;
  const of = applied(intent, add({ ...own, reach: { kind: 'sites', siteIds: [site.id] } }));
  expect(of.estate.radius![0]).toMatchObject({ own: true, address: '', port: 1812 });
  const more = { ...own, id: sampleId(7, 2), name: 'Other' };
  expect(flawsOf(of, add(more))).toEqual(['radius.same']);
  expect(flawsOf(of, add({ ...more, reach: { kind: 'sites', siteIds: [sampleId(1, 9)] } }))).toEqual([]);
  expect(flawsOf(of, add({ ...more, reach: { kind: 'sites', siteIds: [sampleId(1, 9)] }, unsigned: true }))).toEqual([
    'radius.own-unproven',
  ]);
});

test('an authority is certificates as PEM; the controller has one of its own', () => {
  const pem = `-----BEGIN CERTIFICATE-----\nMIIB${'A'.repeat(200)}\n-----END CERTIFICATE-----\n`;
  expect(flawsOf(intent, add({ authority: pem + pem, certificateName: 'radius.skerrow.example' }))).toEqual([]);
  for (const authority of ['gulls', pem.replace('END', 'AND'), pem.slice(0, 80), `${pem}gulls`])
    expect(flawsOf(intent, add({ authority }))).toEqual(['radius.authority']);
  expect(flawsOf(intent, add({ own: true, authority: pem }))).toEqual(['radius.own-authority']);
});

test('groups have one class where they could be let in, by name whatever its case', () => {
  const accessClass = { id: sampleId(8, 1), name: 'Crew', segment: 'Segment 2', members: [], groups: [' Deck ', ''] };
  const reach = { kind: 'estate' as const };
  const of = applied(intent, { type: 'class.add', accessClass: { ...accessClass, reach } });
  expect(of.estate.classes!.find(({ name }) => name === 'Crew')!.groups).toEqual(['Deck']);
  const other = { ...accessClass, id: sampleId(8, 2), name: 'Mates', reach };
  expect(flawsOf(of, { type: 'class.add', accessClass: { ...other, groups: ['deck'] } })).toEqual([
    'class.group-taken',
  ]);
  expect(flawsOf(of, { type: 'class.add', accessClass: { ...other, groups: ['a', 'A', 'b;c'] } })).toEqual([
    'class.group-taken',
    'class.group',
  ]);
});

test('a secret has at least eight characters, and at most 128', () => {
  const flaws = (value: string) =>
    secretsOfRadius(add() as never).flatMap(({ check }) => check(value).map(({ code }) => code));
  expect(flaws('gulls7!')).toEqual(['radius.secret-short']);
  expect(flaws('gulls over')).toEqual([]);
  expect(flaws('g'.repeat(129))).toEqual(['radius.secret-long']);
  expect(flaws('gulls\u0000over')).toEqual(['radius.secret-control']);
});

test('devices that ask who clients are, are told of the servers that reach their site, and of no other', () => {
  const asks = { untagged: null, tagged: [], auth: 'mac' as const };
  const [gatewayId, switchId, apId] = [sampleId(2, 0), sampleId(3, 0), sampleId(4, 0)];
  const asking = applied(
    intent,
    {
      type: 'class.add',
      accessClass: {
        id: sampleId(8, 0),
        name: 'Scanners',
        segment: 'Segment 2',
        members: [],
        reach: { kind: 'estate' },
      },
    },
    add(),
  );
  const told = (of: typeof intent): Map<string, DeviceDocument> =>
    compileSite(resolve(of.estate, { ...site, ports: { ...site.ports, [switchId]: { '4': asks } } }), roster);
  const documents = told(asking);
  expect(documents.get(apId)!.radius).toBeUndefined(); // none of its SSIDs asks
  const { radius } = documents.get(switchId)!;
  expect(radius).toEqual({
    servers: [
      {
        ...{ name: 'Quay', address: '198.51.100.90', port: 1812, secret: { secret: sampleId(7, 9) } },
        ...{ order: 1, timeout: 3, tries: 3, dead: 300, macs: 'none_lower', accounting: 1813 },
      },
    ],
    segments: [{ vlan: 20, name: 'Segment 2' }],
  });
  expect(secretsOf(documents.get(switchId)!)).toEqual([sampleId(7, 9)]);
  const set = (from: object, to: object): Operation => ({ type: 'radius.set', radiusId: sampleId(7, 0), from, to });
  expect(told(applied(asking, set({ macs: 'none_lower' }, { macs: null }))).get(switchId)!.radius).toBeUndefined();
  // One that is not told of sessions, as those of before, has no port for them.
  const untold = told(applied(asking, set({ accounting: 1813 }, { accounting: null }))).get(switchId)!.radius!;
  expect(untold.servers[0]).not.toHaveProperty('accounting');
  expect(flawsOf(asking, set({ accounting: 1813 }, { accounting: 0 }))).toEqual(['radius.accounting']);
  const elsewhere = set({ reach: { kind: 'estate' } }, { reach: { kind: 'sites', siteIds: [sampleId(1, 9)] } });
  expect(told(applied(asking, elsewhere)).get(switchId)!.radius).toBeUndefined();
  // Through the gateway: it is told, and the switch where to find it.
  const through = told(applied(asking, set({ source: 'device' }, { source: 'gateway' })));
  expect(documents.get(gatewayId)!.radius).toBeUndefined();
  expect(through.get(gatewayId)!.radius!.servers.map(({ through: by }) => by)).toEqual([undefined]);
  expect(through.get(switchId)!.radius!.servers.map(({ through: by }) => by)).toEqual(['10.1.1.1']);
});

test('an answer chooses a class by Filter-Id, else by VLAN name or ID, and never another than it names', () => {
  const classes = [
    { id: 'a', name: 'Crew', vlan: 10, members: [] },
    { id: 'b', name: 'Tills', vlan: 20, members: [] },
    { id: 'c', name: 'Lost', vlan: null, members: [] },
  ];
  const radius = {
    servers: [],
    segments: [
      { vlan: 10, name: 'Deck' },
      { vlan: 20, name: 'Ticketing' },
    ],
  };
  const none = { kind: 'none', text: '' } as const;
  const said = (filterIds: string[], kind: 'id' | 'name' | 'none' | 'wrong' = 'none', text = '') => {
    const made = classBySaid({ classes, radius }, { filterIds, vlan: kind === 'none' ? none : { kind, text } });
    return made.ok ? `${made.accessClass?.name ?? 'nobody'} by ${made.by}` : `no: ${made.why} ${made.said}`;
  };
  expect(said(['Crew'])).toBe('Crew by filter');
  expect(said([' crew '], 'id', '20')).toBe('Crew by filter'); // Filter-Id comes first
  expect(said(['Gulls', 'Tills'])).toBe('Tills by filter');
  expect(said(['Gulls'], 'id', '20')).toBe('no: class Gulls');
  expect(said(['Lost'])).toBe('no: segment Lost');
  expect(said([], 'id', '20')).toBe('Tills by vlan');
  expect(said([], 'name', 'ticketing')).toBe('Tills by vlan');
  expect(said([], 'name', 'Bridge')).toBe('no: vlan Bridge');
  expect(said([], 'id', '30')).toBe('no: vlan 30');
  expect(said([], 'wrong', '4095')).toBe('no: vlan 4095');
  expect(said([])).toBe('nobody by nothing');
});
