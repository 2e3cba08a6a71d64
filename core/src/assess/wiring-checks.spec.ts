import { expect, test } from 'vitest';
import { apply, type Intent, type Link, type PortEntry, type SitePart } from '../intent';
import { sampleId, sampleSegment, sampleSite } from '../testing';
import { consequencesOf, type ConsequencesInput } from '.';

const sample = sampleSite({ segments: 4, aps: 25 });
const [gateway, sw1, sw2, ap1] = [sampleId(2, 0), sampleId(3, 0), sampleId(3, 1), sampleId(4, 0)];
const [management, crew] = [sampleSegment(0), sampleSegment(1)];

/** A sample site with further cables and settings of ports. */
function changed(
  cables: readonly Link[],
  ports: Record<string, Record<string, PortEntry>> = {},
  site: Partial<SitePart> = {},
) {
  const all: Record<string, Record<string, PortEntry>> = { ...sample.site.ports };
  for (const [id, own] of Object.entries(ports)) all[id] = { ...all[id], ...own };
  return {
    estate: sample.intent.estate,
    site: { ...sample.site, ...site, ports: all },
    roster: sample.roster,
    links: [...sample.links, ...cables],
    told: {},
  } satisfies ConsequencesInput;
}
const link = (a: string, portA: string, b: string, portB: string, only?: 'a' | 'b'): Link => ({
  a: { deviceId: a, port: portA },
  b: { deviceId: b, port: portB },
  ...(only ? { only } : {}),
});
const open: PortEntry = { untagged: management.id, tagged: 'all' };
const found = (input: ConsequencesInput) => consequencesOf(input).findings;

/** Applies a mend and tells what is found then. */
function afterMend(input: ConsequencesInput, code: string): string[] {
  const finding = found(input).find((each) => each.code === code)!;
  let intent: Intent = { estate: input.estate, sites: new Map([[input.site.id, input.site]]) };
  for (const operation of finding.mend!.operations) {
    const result = apply(intent, operation, (id) => input.roster.find((device) => device.id === id));
    if (!result.ok) throw new Error(result.flaws[0]!.message);
    intent = result.intent;
  }
  return found({ ...input, site: intent.sites.get(input.site.id)! }).map((each) => each.code);
}

test('two cables between two switches are a loop, and the mend takes them as one', () => {
  const input = changed([link(sw1, '24', sw2, '24')], { [sw1]: { '24': open }, [sw2]: { '24': open } });
  expect(found(input)).toMatchObject([
    { code: 'lattice.loop', message: '2 cables join x-sw-01 and x-sw-02 in a loop', place: { kind: 'port' } },
  ]);
  expect(afterMend(input, 'lattice.loop')).toEqual([]);
});

test('a group at one end alone is found at the other end, and unlike ports of a group are', () => {
  const cables = [link(sw1, '24', sw2, '24')];
  const grouped = { ...open, group: 1 };
  const half = changed(cables, { [sw1]: { '24': grouped, '26': grouped }, [sw2]: { '24': open } });
  expect(found(half)).toMatchObject([{ code: 'lattice.half-group', place: { id: sw2 } }]);
  expect(afterMend(half, 'lattice.half-group')).toEqual([]);
  const unlike = changed(cables, {
    [sw1]: { '24': grouped, '26': grouped },
    [sw2]: { '24': { untagged: management.id, tagged: [crew.id], group: 1 }, '25': grouped },
  });
  expect(found(unlike).map((each) => each.code)).toContain('lattice.group-unlike');
  expect(afterMend(unlike, 'lattice.group-unlike')).toEqual([]);
});

test('a cable that closes a ring is found, unless no segment goes all the way round', () => {
  const cables = [link(gateway, '2', sw2, '26')];
  expect(found(changed(cables)).map(({ code, place }) => [code, place.kind])).toEqual([['lattice.ring', 'port']]);
  expect(found(changed(cables, { [sw2]: { '26': { untagged: null, tagged: [] } } }))).toEqual([]);
});

test('a native VLAN that differs at two ends names both segments, and is mended towards management', () => {
  const input = changed([], { [sw1]: { '26': { untagged: crew.id, tagged: [] } } });
  const finding = found(input).find((each) => each.code === 'lattice.two-servers')!;
  expect(finding.message).toBe('Segment 1 and Management flow into each other between x-sw-01 and x-sw-02');
  expect(finding.mend!.label).toBe('carry 1 untagged on x-sw-01 port 26');
  expect(afterMend(input, 'lattice.two-servers')).not.toContain('lattice.two-servers');
});

test('a segment that a list sends where nobody takes it ends dead', () => {
  const tagged = [sampleSegment(1).id, sampleSegment(2).id, sampleSegment(3).id];
  const input = changed([], {
    [sw1]: { '26': { untagged: management.id, tagged } },
    [sw2]: { '25': { untagged: management.id, tagged: tagged.slice(1) } },
  });
  const codes = found(input).map((each) => each.code);
  expect(codes).toContain('lattice.dead-end');
  expect(codes).toContain('lattice.not-carried'); // an AP behind it needs the segment, so adding comes first
});

test('a cable that one end alone reports is named at the silent port', () => {
  const links = sample.links.map((each, i) => (i === 0 ? { ...each, only: 'a' as const } : each));
  expect(found({ ...changed([]), links })).toMatchObject([
    { code: 'lattice.one-sided', place: { kind: 'port', id: sample.links[0]!.b.deviceId } },
  ]);
});

test('an AP behind an AP is said, and then APs cannot give addresses', () => {
  const room = { ...sample.roster.find((device) => device.id === ap1)!, id: 'room', name: 'x-ap-99', model: 'AP-6W' };
  const links = sample.links.map((each) =>
    each.b.deviceId === ap1 ? { ...each, b: { deviceId: 'room', port: 'lan' } } : each,
  );
  links.push(link('room', '1', ap1, 'lan'));
  const aired: PortEntry = { untagged: management.id, tagged: ['aired'] };
  const input = { ...changed([], { room: { '1': aired } }), links, roster: [...sample.roster, room] };
  expect(found(input).map(({ code, place }) => [code, place.id])).toEqual([['lattice.ap-behind-ap', ap1]]);
  const served = {
    ...crew,
    addresses: { ...crew.addresses!, from: { kind: 'ap', how: 'each', deviceIds: [] } as const },
  };
  const mesh = {
    ...input,
    site: { ...input.site, segments: input.site.segments.map((each) => (each.id === crew.id ? served : each)) },
  };
  expect(found(mesh)).toMatchObject([
    { code: 'lattice.mesh-serves', mend: { label: 'serve from x-gw-01' } },
    { code: 'lattice.ap-behind-ap' },
  ]);
  expect(afterMend(mesh, 'lattice.mesh-serves')).toEqual(['lattice.ap-behind-ap']);
});

test('free ports in VLAN 1 are closed by one mend', () => {
  const input = changed([], { [sw1]: { '22': {}, '23': {} } });
  expect(found(input)).toMatchObject([
    { code: 'lattice.management-exposed', severity: 'warning', message: '2 free ports of x-sw-01 hand out Management' },
  ]);
  expect(afterMend(input, 'lattice.management-exposed')).toEqual([]);
});

test('an outside server is refused where no route leads to it', () => {
  const from = (server: string) =>
    sample.site.segments.map((each) =>
      each.id === crew.id
        ? { ...crew, addresses: { ...crew.addresses!, from: { kind: 'relay' as const, server } } }
        : each,
    );
  const codes = (server: string) => found(changed([], {}, { segments: from(server) })).map((each) => each.code);
  expect(codes('10.200.0.5')).toEqual(['lattice.relay-lost']);
  expect(codes('10.1.20.5')).toEqual([]);
  expect(codes('198.51.100.7')).toEqual([]);
});

test('a pool is checked for segments that are not there and for those without addresses', () => {
  const segments = sample.site.segments.map((each) => (each.vlan === 20 ? { ...each, addresses: null } : each));
  const pools = [{ id: 'p', name: 'Visitors', vlans: '10,20,99' }];
  const input = changed([], {}, { segments, pools });
  expect(found(input).map((each) => each.code)).toEqual([
    'lattice.pool-no-addresses',
    'lattice.pool-unknown',
    'lattice.no-addresses',
  ]);
  expect(afterMend(input, 'lattice.pool-unknown')).not.toContain('lattice.pool-unknown');
  expect(afterMend(input, 'lattice.pool-no-addresses')).toEqual(['lattice.pool-unknown']);
});

test('more VLANs than the hardware holds, and a provider’s address inside a segment', () => {
  const small = sample.roster.map((device) =>
    device.id === sw2 ? { ...device, model: 'XS', sheet: { ...XS } } : device,
  );
  expect(found({ ...changed([]), roster: small }).map((each) => each.code)).toEqual(['lattice.too-many-vlans']);
  const uplinks = [{ deviceId: gateway, port: 'wan1', address: '10.1.10.77' }];
  expect(found({ ...changed([]), uplinks })).toMatchObject([
    { code: 'lattice.uplink-overlap', message: 'Segment 1 overlaps the uplink wan1 of x-gw-01' },
  ]);
});

const XS = {
  format: 'iron-lattice.hardware/1' as const,
  model: 'XS',
  title: 'Small switch',
  kind: 'switch' as const,
  ports: Array.from({ length: 26 }, (_, i) => ({
    name: String(i + 1),
    role: i < 24 ? ('edge' as const) : ('trunk' as const),
    speed: 1000,
    poe: 30,
  })),
  radios: [],
  ssidsPerRadio: 0,
  vlans: 3,
};
