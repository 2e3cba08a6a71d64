import fc from 'fast-check';
import { expect, test } from 'vitest';
import { overlaps, parsePrefix } from '../address';
import { checkSegment, type Intent } from '../intent';
import { foundSite, nameDevices, proposeSiteCode } from '../intake';
import { sampleSegment, sampleSite } from '../testing';
import { proposeSegment, proposeSegment6, proposeServerAddress, segmentMarks } from '.';

const { intent, site } = sampleSite({ segments: 3, aps: 1 });

test('the third octet follows the VLAN ID where it can', () => {
  expect(proposeSegment(intent, site.id, 40)).toEqual({
    subnet: '10.1.40.0/24',
    gateway: '10.1.40.1',
    addresses: { first: '10.1.40.20', last: '10.1.40.254', leaseSeconds: 28_800 },
  });
  expect(proposeSegment(intent, site.id, 10)!.subnet).toBe('10.1.0.0/24'); // 10.1.10.0/24 is used
  expect(proposeSegment(intent, site.id, 3000)!.subnet).toBe('10.1.0.0/24'); // no such octet
});

test('what is typed is kept and the rest follows it', () => {
  expect(proposeSegment(intent, site.id, 40, { subnet: '192.168.7.64/28' })).toEqual({
    subnet: '192.168.7.64/28',
    gateway: '192.168.7.65',
    addresses: { first: '192.168.7.66', last: '192.168.7.78', leaseSeconds: 28_800 },
  });
  expect(proposeSegment(intent, site.id, 40, { gateway: '10.1.40.200' })!.addresses).toMatchObject({
    first: '10.1.40.20',
    last: '10.1.40.199',
  });
  expect(proposeSegment(intent, site.id, 40, { subnet: 'ten' })).toBeNull();
});

test('a switch that gives addresses gets one that nobody else has and that is given to nobody', () => {
  const segment = { ...sampleSegment(1), subnet: '10.1.9.0/28', gateway: '10.1.9.1' };
  const given = (first: string, last: string, reserved: string[] = []) => ({
    ...segment,
    addresses: {
      first,
      last,
      leaseSeconds: 60,
      reservations: reserved.map((address, i) => ({ mac: `02:00:00:00:00:0${i}`, address, name: '' })),
    },
  });
  expect(proposeServerAddress(given('10.1.9.8', '10.1.9.14'))).toBe('10.1.9.2');
  expect(proposeServerAddress(given('10.1.9.2', '10.1.9.11'))).toBe('10.1.9.12');
  expect(proposeServerAddress(given('10.1.9.2', '10.1.9.11', ['10.1.9.12', '10.1.9.13']))).toBe('10.1.9.14');
  expect(proposeServerAddress(given('10.1.9.2', '10.1.9.14'))).toBeNull();
  expect(proposeServerAddress({ ...segment, subnet: 'none' })).toBeNull();
});

test('whatever is proposed passes the check, over and over until a site is full of segments', () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.integer({ min: 2, max: 4094 }), { minLength: 1, maxLength: 30 }), (vlans) => {
      let now: Intent = { ...intent, sites: new Map([[site.id, { ...site, segments: [sampleSegment(0)] }]]) };
      for (const vlan of vlans) {
        const here = now.sites.get(site.id)!;
        const segment = { id: String(vlan), name: `S${vlan}`, vlan, ...proposeSegment(now, site.id, vlan)! };
        expect(checkSegment(segment, site.id, now.sites.values())).toEqual([]);
        now = { ...now, sites: new Map([[site.id, { ...here, segments: [...here.segments, segment] }]]) };
      }
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 30 },
  );
});

test('a new site starts in a /16 that nobody uses', () => {
  const wish = { name: 'Eastholm', code: 'eh', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  const founded = foundSite(intent, wish, { site: 's', management: 'm' });
  expect(founded).toMatchObject({
    ok: true,
    part: { segments: [{ name: 'Management', vlan: 1, subnet: '10.2.1.0/24' }] },
  });
  const bad = foundSite(
    intent,
    { name: ' ', code: 'E', country: 'Ireland', timeZone: 'Mars', address: '', tags: [] },
    { site: 's', management: 'm' },
  );
  expect(bad.ok ? [] : bad.flaws.map((flaw) => flaw.field)).toEqual(['name', 'code', 'country', 'timeZone']);
});

test('sites find room when no /16 is left: in the largest block between the subnets of others, never in theirs', () => {
  let now = intent;
  for (let n = 0; n < 330; n++) {
    const wish = { name: `Quay ${n}`, code: `q${n}`, country: 'IE', timeZone: 'UTC', address: '', tags: [] };
    const founded = foundSite(now, wish, { site: `s${n}`, management: `m${n}` });
    if (!founded.ok) throw new Error(`${n}: ${founded.flaws[0]!.message}`);
    now = { ...now, sites: new Map([...now.sites, [founded.part.id, founded.part]]) };
  }
  const subnets = [...now.sites.values()].flatMap(({ segments }) => segments.map(({ subnet }) => parsePrefix(subnet)!));
  for (const [i, one] of subnets.entries())
    for (const other of subnets.slice(i + 1)) expect(overlaps(one, other)).toBe(false);
  const own = subnets.slice(site.segments.length); // a /20 for each new one at the least
  expect(new Set(own.map(({ network }) => network >> 12n)).size).toBe(330);
});

test('device names take the lowest free numbers, short forms are short and free', () => {
  expect(
    nameDevices(
      'bm',
      ['AP-6E', 'GW-4', 'AP-6', 'SW-24P'].map((model) => ({ model })),
      ['bm-ap-01', 'bm-ap-03'],
    ),
  ).toEqual(['bm-ap-02', 'bm-gw-01', 'bm-ap-04', 'bm-sw-01']);
  expect(proposeSiteCode('Ansel Quay', [])).toBe('aq');
  expect(proposeSiteCode('Eastholm', [])).toBe('es');
  expect(proposeSiteCode('Eastholm', ['es'])).toBe('et');
  expect(proposeSiteCode('Île', [])).toBe('il');
  expect(proposeSiteCode('…', [])).toBe('st');
  const taken: string[] = [];
  for (let i = 0; i < 40; i++) taken.push(proposeSiteCode('Oa', taken));
  expect(new Set(taken).size).toBe(40);
});

test('segments of a site have letters of their own', () => {
  const marks = segmentMarks([
    { id: '1', name: 'Crew' },
    { id: '2', name: 'Cameras' },
    { id: '3', name: 'car' },
  ]);
  expect([...marks.values()].map((mark) => mark.letter)).toEqual(['C', 'A', 'R']);
});

test('an IPv6 prefix is unique local and the site’s own, with the VLAN ID to be read in it, and joins a block that is there', () => {
  const { site } = sampleSite({ segments: 2, aps: 0 });
  const own = { ...site, id: 'a1b2c3d4-e5f6-4000-8000-000000000000' };
  expect(proposeSegment6(own, 40)).toEqual({
    prefix: 'fda1:b2c3:d4e5:40::/64',
    gateway: 'fda1:b2c3:d4e5:40::1',
    mode: 'slaac',
  });
  const v6 = { prefix: '2001:db8:77:1::/64', gateway: '2001:db8:77:1::1', mode: 'slaac' as const };
  const given = { ...own, segments: own.segments.map((segment, i) => (i === 0 ? { ...segment, v6 } : segment)) };
  expect(proposeSegment6(given, 1234).prefix).toBe('2001:db8:77:1234::/64');
});
