import fc from 'fast-check';
import { expect, test } from 'vitest';
import { parsePrefix, overlaps } from '../address';
import { apply, type Intent, type Operation, type Segment } from '../intent';
import { sampleSite } from '../testing';
import { composeGuestNetwork, type GuestNetwork, type GuestNetworkWish } from './guest-network';

const { intent: sample, site } = sampleSite({ segments: 4, aps: 2 });
const other = { ...site, id: '00000000-0000-4000-8000-00000000aaaa', name: 'Slip', code: 'sl' };
const WISH: GuestNetworkWish = {
  ...{ name: 'Visitors', siteIds: [site.id], security: 'open', bands: ['5'], ways: ['accept'], visit: 480 },
  ...{ hours: null, caps: { client: { down: 10_000, up: 2000 } }, dns: [] },
};
const means = (portalPort: number | null = null) => {
  let count = 0;
  return { portalPort, idFor: () => `00000000-0000-4000-8000-${String(++count).padStart(12, 'f')}` };
};
const composed = (intent: Intent, wish: Partial<GuestNetworkWish> = {}, port: number | null = null): GuestNetwork => {
  const made = composeGuestNetwork(intent, { ...WISH, ...wish }, means(port));
  if ('flaws' in made) throw new Error(made.flaws.map(({ message }) => message).join());
  return made;
};
const flawsOf = (intent: Intent, wish: Partial<GuestNetworkWish>) => {
  const made = composeGuestNetwork(intent, { ...WISH, ...wish }, means());
  return 'flaws' in made ? made.flaws.map(({ code, field }) => `${code} ${field}`) : [];
};
function after(intent: Intent, operations: readonly Operation[]): Intent {
  return operations.reduce((now, operation) => {
    const result = apply(now, operation, () => undefined);
    if (!result.ok) throw new Error(JSON.stringify(result.flaws));
    return result.intent;
  }, intent);
}
const guestsAt = (intent: Intent, siteId: string): Segment =>
  intent.sites.get(siteId)!.segments.find(({ name }) => name === 'Visitors')!;

test('name and place are enough: segment, portal, SSID and a guarantee, each said in words', () => {
  const { parts, operations, portalId } = composed(sample);
  expect(parts.map(({ kind }) => kind)).toEqual(['segment', 'guarantee', 'portal', 'ssid']);
  const made = after(sample, operations);
  const segment = guestsAt(made, site.id);
  expect(segment).toMatchObject({
    isolation: { segments: true, clients: true, gateway: true },
    addresses: { leaseSeconds: 7200 },
  });
  expect(site.segments.map(({ vlan }) => vlan)).not.toContain(segment.vlan);
  const ssid = made.estate.ssids.find(({ name }) => name === 'Visitors');
  expect(ssid).toMatchObject({ portal: portalId, segment: 'Visitors', reach: { kind: 'sites', siteIds: [site.id] } });
  expect(ssid!.caps).toEqual({ client: { down: 10_000, up: 2000 } });
  expect(made.sites.get(site.id)!.guarantees).toHaveLength(1);
  expect(parts[0]!.words).toContain(segment.subnet);
});

test('where the controller is known, guests reach the page that they sign in at, and the guarantee says so', () => {
  const known = { ...sample, estate: { ...sample.estate, controller: ['10.1.1.9'] } };
  const { operations } = composed(known, {}, 8624);
  const made = after(known, operations).sites.get(site.id)!;
  expect(made.rules![0]).toMatchObject({
    verdict: 'allow',
    to: [{ kind: 'controller' }],
    services: [{ ports: ['8624'] }],
  });
  expect(made.guarantees![0]!.besides).toContainEqual({ kind: 'controller' });
});

test('at another site the network that is there goes on: same VLAN ID, subnet of its own, nothing of it changed', () => {
  const two = { ...sample, sites: new Map([...sample.sites, [other.id, other]]) };
  const first = after(two, composed(two).operations);
  const again = composed(first, { siteIds: [site.id, other.id], security: 'owe', visit: 5 });
  expect(again.parts.map(({ kind, siteId }) => [kind, siteId])).toEqual([
    ['segment', site.id],
    ['segment', other.id],
    ['guarantee', other.id],
    ['ssid', null],
  ]);
  const both = after(first, again.operations);
  const [here, there] = [guestsAt(both, site.id), guestsAt(both, other.id)];
  expect(there.vlan).toBe(here.vlan);
  expect(overlaps(parsePrefix(here.subnet)!, parsePrefix(there.subnet)!)).toBe(false);
  expect(both.estate.portals).toHaveLength(1);
  const ssid = both.estate.ssids.find(({ name }) => name === 'Visitors')!;
  expect([ssid.security, ssid.reach]).toEqual(['open', { kind: 'sites', siteIds: [site.id, other.id] }]);
  expect(flawsOf(both, { siteIds: [other.id] })).toEqual(['guests.there siteIds']);
});

test('what is wrong is said at the field that was typed', () => {
  const caps = (flaws: string[]) => flaws.map((each) => each.split(' ')[1]);
  expect(flawsOf(sample, { siteIds: [] })).toEqual(['guests.no-site siteIds']);
  expect(flawsOf(sample, { name: ' ' })).toEqual(['guests.no-name name']);
  expect(caps(flawsOf(sample, { name: 'x'.repeat(40) }))).toContain('name');
  expect(caps(flawsOf(sample, { caps: { client: { down: 1 } } }))).toEqual(['caps.client.down']);
  expect(caps(flawsOf(sample, { caps: { all: { up: 0 } } }))).toEqual(['caps.all.up']);
  expect(caps(flawsOf(sample, { dns: ['10.0.0.300'] }))).toEqual(['dns']);
  expect(caps(flawsOf(sample, { visit: 1 }))).toEqual(['visit']);
  expect(caps(flawsOf(sample, { bands: ['6'], security: 'open' }))).not.toEqual([]);
});

test('whatever VLAN IDs and subnets are taken, the new segment keeps clear of them', () => {
  const taken = fc.uniqueArray(fc.integer({ min: 2, max: 250 }), { minLength: 1, maxLength: 120 });
  fc.assert(
    fc.property(taken, (vlans) => {
      const segments = [
        site.segments[0]!,
        ...vlans
          .filter((vlan) => vlan !== site.segments[0]!.vlan)
          .map((vlan) => ({
            ...{ id: `s${vlan}`, name: `S ${vlan}`, vlan, subnet: `10.77.${vlan}.0/24`, gateway: `10.77.${vlan}.1` },
            addresses: null,
          })),
      ];
      const full = { ...sample, sites: new Map([[site.id, { ...site, segments }]]) } as Intent;
      const segment = guestsAt(after(full, composed(full).operations), site.id);
      const own = parsePrefix(segment.subnet)!;
      expect(segments.some(({ vlan }) => vlan === segment.vlan)).toBe(false);
      expect(segments.some(({ subnet }) => overlaps(parsePrefix(subnet)!, own))).toBe(false);
    }),
    { numRuns: 60 },
  );
});
