import fc from 'fast-check';
import { expect, test } from 'vitest';
import { hashOf } from '../document';
import { sampleId, sampleSegment, sampleSite } from '../testing';
import { apply, checkPassphrase, checkSegment, replay, type Intent, type Operation, type Segment } from '.';

const seed = Number(process.env['SEED'] ?? 1);
const { intent, site, roster } = sampleSite({ segments: 4, aps: 2 });
const lookup = (id: string) => roster.find((device) => device.id === id);
const [, switchDevice] = roster;
const hash = (value: Intent): string => hashOf([value.estate, [...value.sites.values()]] as never);
const codes = (operation: Operation, on = intent): string[] => {
  const result = apply(on, operation, lookup);
  return result.ok ? [] : result.flaws.map((flaw) => flaw.code);
};
const done = (operation: Operation, on = intent): Intent => {
  const result = apply(on, operation, lookup);
  if (!result.ok) throw new Error(result.flaws[0]!.message);
  return result.intent;
};

/** Edits of every type, fitting or not, on few enough objects that they meet. */
const segmentId = fc.integer({ min: 0, max: 6 }).map((i) => sampleSegment(i).id);
const at = { siteId: site.id, deviceId: switchDevice!.id };
const port = fc.constantFrom('1', '2', '3', '25');
const anyOperation: fc.Arbitrary<Operation> = fc.oneof(
  fc
    .integer({ min: 1, max: 6 })
    .map((i): Operation => ({ type: 'segment.add', siteId: site.id, segment: sampleSegment(i) })),
  segmentId.map((id): Operation => ({ type: 'segment.remove', siteId: site.id, segmentId: id })),
  fc.tuple(fc.integer({ min: 0, max: 6 }), fc.constantFrom('A', 'B', 'Segment 2')).map(([i, name]): Operation => ({
    type: 'segment.set',
    siteId: site.id,
    segmentId: sampleSegment(i).id,
    from: { name: sampleSegment(i).name },
    to: { name },
  })),
  fc
    .tuple(fc.constantFrom('port.tag' as const, 'port.untag' as const), port, segmentId)
    .map(([type, p, id]): Operation => ({ type, ...at, port: p, segmentId: id })),
  fc
    .tuple(port, segmentId, segmentId)
    .map(([p, from, to]): Operation => ({ type: 'port.untagged', ...at, port: p, from, to })),
  fc.nat(2).map((i): Operation => ({ type: 'ssid.remove', ssidId: sampleId(5, i) })),
  fc
    .constantFrom('SSID 1', 'Free')
    .map((name): Operation => ({ type: 'ssid.set', ssidId: sampleId(5, 1), from: { name: 'SSID 2' }, to: { name } })),
);

test('taking edits back in reverse order gives the very same intent, byte for byte', () => {
  fc.assert(
    fc.property(fc.array(anyOperation, { maxLength: 12 }), (operations) => {
      let now = intent;
      const inverses: Operation[] = [];
      for (const operation of operations) {
        const result = apply(now, operation, lookup);
        if (!result.ok) continue;
        now = result.intent;
        inverses.unshift(result.inverse);
      }
      for (const inverse of inverses) now = done(inverse, now);
      expect(hash(now)).toBe(hash(intent));
    }),
    { seed, numRuns: 300 },
  );
});

test('a port that is back at its default leaves nothing behind, in whatever order its setting’s fields are kept', () => {
  const stored = { tagged: [sampleSegment(1).id], untagged: sampleSegment(0).id }; // as a database may give it back
  const kept: Intent = {
    ...intent,
    sites: new Map([[site.id, { ...site, ports: { [switchDevice!.id]: { '9': stored } } }]]),
  };
  const next = done({ type: 'port.untag', ...at, port: '9', segmentId: sampleSegment(1).id }, kept);
  expect(next.sites.get(site.id)!.ports).toEqual({});
});

test('an edit leaves its input alone, and shares the parts it does not touch', () => {
  const before = hash(intent);
  const next = done(
    { type: 'segment.remove', siteId: site.id, segmentId: sampleSegment(9).id },
    done({ type: 'segment.add', siteId: site.id, segment: sampleSegment(9) }),
  );
  expect(hash(intent)).toBe(before);
  expect(next.estate).toBe(intent.estate);
});

test('a replay on a newer base keeps what fits and says why the rest does not', () => {
  const rename: Operation = {
    type: 'segment.set',
    siteId: site.id,
    segmentId: sampleSegment(1).id,
    from: { name: 'Segment 1' },
    to: { name: 'Crew' },
  };
  const add: Operation = { type: 'segment.add', siteId: site.id, segment: sampleSegment(7) };
  const newer = done({ ...rename, to: { name: 'Deck' } });
  const result = replay(newer, [rename, add], lookup);
  expect(result.fitting).toEqual([add]);
  expect(result.misfits).toEqual([
    {
      operation: rename,
      flaws: [{ code: 'segment.changed', message: 'Somebody changed the name of “Deck” meanwhile.', field: 'name' }],
    },
  ]);
});

test('a segment’s faults are all named, each at its field', () => {
  const bad: Segment = {
    ...sampleSegment(1),
    id: 'new',
    name: ' ',
    vlan: 10,
    subnet: '10.1.10.128/25',
    gateway: '10.1.10.127',
    addresses: { first: '10.1.10.255', last: '10.1.10.200', leaseSeconds: 5 },
  };
  expect(checkSegment(bad, site.id, [site]).map(({ code, field }) => [code, field])).toEqual([
    ['segment.name-empty', 'name'],
    ['segment.gateway-outside', 'gateway'],
    ['segment.first-reserved', 'first'],
    ['segment.range-reversed', 'last'],
    ['segment.lease', 'leaseSeconds'],
    ['segment.vlan-taken', 'vlan'],
    ['segment.subnet-overlap', 'subnet'],
  ]);
});

test.each([
  ['/31 with its two ends', { subnet: '10.9.0.0/31', gateway: '10.9.0.0', addresses: null }, []],
  ['/32', { subnet: '10.9.0.0/32', gateway: '10.9.0.0', addresses: null }, ['segment.subnet-small']],
  ['IPv6', { subnet: '2001:db8:40::/64', gateway: '2001:db8:40::1', addresses: null }, ['segment.subnet-v6']],
  ['text', { subnet: 'ten', gateway: '10.9.0.1', addresses: null }, ['segment.subnet-malformed']],
  ['network as gateway', { subnet: '10.9.0.0/24', gateway: '10.9.0.0', addresses: null }, ['segment.gateway-reserved']],
])('a subnet that is %s', (_name, fields, wanted) => {
  const segment = { ...sampleSegment(1), id: 'new', name: 'New', vlan: 999, ...fields };
  expect(checkSegment(segment, site.id, [site]).map(({ code }) => code)).toEqual(wanted);
});

test('ports refuse what makes no sense', () => {
  const gateway = roster[0]!.id;
  const [a, b] = [sampleSegment(1).id, sampleSegment(0).id];
  expect(codes({ type: 'port.tag', ...at, port: '1', segmentId: a })).toEqual(['port.carries']);
  expect(codes({ type: 'port.tag', ...at, port: '99', segmentId: a })).toEqual(['port.unknown']);
  expect(codes({ type: 'port.tag', ...at, deviceId: 'gone', port: '1', segmentId: a })).toEqual([
    'port.device-unknown',
  ]);
  expect(codes({ type: 'port.tag', ...at, deviceId: gateway, port: 'wan1', segmentId: a })).toEqual(['port.wan']);
  expect(codes({ type: 'port.untag', ...at, port: '9', segmentId: a })).toEqual(['port.not-tagged']);
  expect(codes({ type: 'port.untag', ...at, port: '25', segmentId: a })).toEqual(['port.trunk']);
  expect(codes({ type: 'port.untagged', ...at, port: '1', from: null, to: null })).toEqual(['port.changed']);
  expect(codes({ type: 'port.untagged', ...at, port: '1', from: b, to: a })).toEqual(['port.both']);
  expect(codes({ type: 'segment.remove', siteId: site.id, segmentId: b })).toEqual(['segment.management']);
  expect(codes({ type: 'segment.remove', siteId: site.id, segmentId: a })).toEqual(['segment.on-ports']);
});

test('SSIDs are refused in words', () => {
  const [ssid] = intent.estate.ssids;
  const add = (change: object) => codes({ type: 'ssid.add', ssid: { ...ssid!, id: 'new', name: 'New', ...change } });
  expect(add({})).toEqual([]);
  expect(add({ name: 'é'.repeat(17) })).toEqual(['ssid.name-long']);
  expect(add({ name: 'é'.repeat(16) })).toEqual([]);
  expect(add({ name: '', bands: [], segment: ' ' })).toEqual([
    'ssid.name-empty',
    'ssid.bands-none',
    'ssid.segment-none',
  ]);
  expect(add({ security: 'wpa2-psk', bands: ['6'] })).toEqual(['ssid.6ghz-wpa2']);
  expect(add({ security: 'open', bands: ['6'] })).toEqual(['ssid.6ghz-open']);
  expect(add({ security: 'owe', bands: ['6'], passphrase: null })).toEqual([]);
  expect(add({ passphrase: null })).toEqual(['ssid.passphrase-none']);
  for (const name of ['  ', '\u200b\u2060', '\u00ad ']) expect(add({ name })).toEqual(['ssid.name-blank']);
  expect(add({ join: -40 })).toEqual(['ssid.join']);
  expect(add({ join: -70, stay: -72 })).toEqual(['ssid.stay-above']);
  expect(add({ join: -70, stay: -73, most: 60, steer: true, roam: ['k', 'v', 'r'] })).toEqual([]);
  expect(add({ most: 0 })).toEqual(['ssid.most']);
  expect(add({ steer: true, bands: ['2.4'] })).toEqual(['ssid.steer']);
  expect(add({ roam: ['r'], security: 'owe' })).toEqual(['ssid.roam-keys']);
  expect(add({ name: ssid!.name, off: true })).toEqual([]);
  expect(add({ aps: { somewhere: [] } })).toEqual(['ssid.aps-none']);
  const former = { secret: 'before', until: '2026-12-31' };
  expect(add({ former })).toEqual([]);
  expect(add({ former, security: 'wpa3-sae' })).toEqual(['ssid.former-wpa3']);
  expect(add({ former: { ...former, until: '2026-13-01' } })).toEqual(['ssid.former-day']);
  expect(add({ former: { ...former, secret: ssid!.passphrase!.secret } })).toEqual(['ssid.former-same']);
  expect(add({ name: ssid!.name })).toEqual(['ssid.name-taken']);
  expect(add({ name: ssid!.name, reach: { kind: 'sites', siteIds: ['elsewhere'] } })).toEqual(['ssid.name-taken']);
});

test('passphrases are 8 to 63 printable ASCII characters; 64 hex digits only for WPA2', () => {
  const ok = (text: string, security: 'wpa2-psk' | 'wpa3-sae' = 'wpa3-sae') =>
    checkPassphrase(text, security).length === 0;
  expect([ok('1234567'), ok('12345678'), ok('a'.repeat(63)), ok('a'.repeat(65)), ok('pässword1')]).toEqual([
    false,
    true,
    true,
    false,
    false,
  ]);
  expect([ok('0'.repeat(64)), ok('0'.repeat(64), 'wpa2-psk'), ok('g'.repeat(64), 'wpa2-psk')]).toEqual([
    false,
    true,
    false,
  ]);
});
