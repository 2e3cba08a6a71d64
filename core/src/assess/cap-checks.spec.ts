import { expect, test } from 'vitest';
import type { ApDocument, GatewayDocument } from '../document';
import { resolve, type EstatePart, type RosterDevice, type SitePart, type Ssid } from '../intent';
import { capLimits, capPlaces, compileSite } from '../rollout';
import { sampleSite } from '../testing';
import type { Caps } from '../traffic';
import { findingsOf } from './consequences';

const { intent, site, roster, links } = sampleSite({ segments: 3, aps: 2 });
const [first, second] = intent.estate.ssids as [Ssid, Ssid];
const caps: Caps = { client: { down: 5000, up: 2000 }, all: { down: 30_001 } };
interface Setting {
  readonly estate?: EstatePart;
  readonly part?: SitePart;
  readonly devices?: readonly RosterDevice[];
}
const capped = (change: Partial<Ssid> = {}, ...more: Ssid[]): EstatePart => ({
  ...intent.estate,
  ssids: [{ ...first, caps, ...change }, ...more],
});
const found = (code: string, { estate = capped(), part = site, devices = roster }: Setting = {}) =>
  findingsOf({ estate, site: part, roster: devices, links }).filter((finding) => finding.code === code);
const told = ({ estate = capped(), part = site, devices = roster }: Setting = {}) => {
  const resolved = resolve(estate, part);
  const documents = compileSite(resolved, devices);
  const all = [...documents.values()];
  return {
    source: { site: resolved, roster: devices },
    ap: all.find(({ kind }) => kind === 'ap') as ApDocument,
    gateway: all.find(({ kind }) => kind === 'gateway') as GatewayDocument | undefined,
    place: capPlaces({ site: resolved, roster: devices }).get(first.id)!,
  };
};
const withoutGateway = roster.filter(({ model }) => !model.startsWith('GW'));
const mine = site.segments.find(({ name }) => name === first.segment)!;
const segmentWith = (said: Caps): SitePart => ({
  ...site,
  segments: site.segments.map((each) => (each.id === mine.id ? { ...each, caps: said } : each)),
});

test('a cap of each client is held at its AP, one of the whole SSID at the gateway, where nobody else is in its segment', () => {
  const { ap, gateway, place } = told();
  expect(place).toMatchObject({ at: 'gateway', aps: 2 });
  expect(ap.ssids[0]!.caps).toEqual({
    client: { down: { kbps: 5000, burst: 62_500 }, up: { kbps: 2000, burst: 25_000 } },
  });
  expect(gateway!.caps).toEqual([
    { name: `SSID ${first.name}`, vlans: [mine.vlan], all: { down: { kbps: 30_001, burst: 375_013 } } },
  ]);
});

test('where others are in the segment, or no gateway is there, each AP lets an equal part through, and that is said', () => {
  const together = { estate: capped({}, { ...second, segment: first.segment }) };
  for (const setting of [together, { devices: withoutGateway }]) {
    const { ap, gateway, place } = told(setting);
    expect(place.at).toBe('parts');
    expect(ap.ssids.find(({ id }) => id === first.id)!.caps!.all).toEqual({ down: { kbps: 15_000, burst: 187_500 } });
    expect(gateway?.caps).toBeUndefined();
    expect(found('wireless.cap-parts', setting)).toMatchObject([{ severity: 'info', place: { id: first.id } }]);
  }
  expect(told(together).place.why).toContain('others are in its segment');
  const one = withoutGateway.filter(({ id }, i) => i === 0 || id !== withoutGateway.at(-1)!.id);
  expect(told({ devices: one }).place.at).toBe('ap');
  expect(told({ devices: one }).ap.ssids[0]!.caps!.all!.down!.kbps).toBe(30_001);
});

test('caps of a segment are held by the gateway that routes it; where none does nothing holds them, which is a fault', () => {
  const part = segmentWith({ all: { down: 50_000 }, burst: 20 });
  expect(told({ estate: intent.estate, part }).gateway!.caps).toEqual([
    { name: `segment ${mine.name}`, vlans: [mine.vlan], all: { down: { kbps: 50_000, burst: 125_000 } } },
  ]);
  expect(found('lattice.cap-nowhere', { part })).toEqual([]);
  expect(found('lattice.cap-nowhere', { part, devices: withoutGateway })).toMatchObject([{ severity: 'error' }]);
});

test('all that a client meets is there to be read', () => {
  const { source } = told({ part: segmentWith({ client: { down: 4000 }, all: { down: 50_000 } }) });
  const limits = capLimits(source, source.site.ssids[0]!, 'down');
  expect(limits.own.map(({ kbps, each }) => [kbps, each])).toEqual([
    [5000, true],
    [30_001, false],
  ]);
  expect(limits.around.map(({ kbps, each }) => [kbps, each])).toEqual([
    [4000, true],
    [50_000, false],
  ]);
  expect(capLimits(source, source.site.ssids[0]!, 'up').around).toEqual([]);
});

test('a cap above what the uplink carries, and one that leaves too little for a page, are found', () => {
  expect(found('wireless.cap-above')).toEqual([]);
  const above = { estate: capped({ caps: { all: { down: 12_000_000 } } }) };
  expect(found('wireless.cap-above', above)).toMatchObject([{ severity: 'info', place: { kind: 'ssid' } }]);
  expect(found('wireless.cap-starves')).toEqual([]);
  expect(found('wireless.cap-starves', { estate: capped({ caps: { client: { down: 128 } } }) })[0]!.reason).toBe(
    '0.13 Mb/s down is left for each: a page of 2 MB takes 125 s.',
  );
  const crowd = found('wireless.cap-starves', { estate: capped({ caps: { all: { down: 30_000 } }, most: 100 }) });
  expect(crowd[0]!.reason).toMatch(/^0\.0[0-9]+ Mb\/s down is left for each when all \d+00 are there that may be/);
  expect(found('wireless.cap-starves', { part: segmentWith({ all: { up: 100 } }) })).toMatchObject([
    { place: { kind: 'segment' } },
  ]);
});
