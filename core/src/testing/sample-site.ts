import { randomFrom } from '../base';
import type { Intent, Link, RosterDevice, Segment, SitePart } from '../intent';

/** A site as tests, benchmarks and stand-ins want one: one gateway, switches in a chain, APs on their edge ports. */
export interface SampleSite {
  readonly intent: Intent;
  readonly site: SitePart;
  readonly roster: readonly RosterDevice[];
  readonly links: readonly Link[];
}

/** A UUID that only depends on what it is for. */
export const sampleId = (kind: number, index: number): string =>
  `${String(kind).padStart(8, '0')}-0000-4000-8000-${String(index).padStart(12, '0')}`;

/** Segment number `index` of a sample site; 0 is management. */
export function sampleSegment(index: number, siteIndex = 0): Segment {
  const vlan = index === 0 ? 1 : index * 10;
  const base = `10.${siteIndex + 1}.${vlan % 256}`;
  return {
    id: sampleId(1, siteIndex * 1000 + index),
    name: index === 0 ? 'Management' : `Segment ${index}`,
    vlan,
    subnet: `${base}.0/24`,
    gateway: `${base}.1`,
    addresses: { first: `${base}.20`, last: `${base}.254`, leaseSeconds: 28_800 },
  };
}

/**
 * Makes a site with one SSID a segment but management, up to eight. All SSIDs are carried to every AP unless
 * `holes` of the AP ports lack one tag each, chosen by the seed.
 */
export function sampleSite(options: {
  segments: number;
  aps: number;
  holes?: number;
  seed?: number;
  /** Absent: as many as 20 APs each take. */
  switches?: number;
  /** Absent: 24 ports each; `large`: 48, those without an AP given out to clients of one segment after the other. */
  size?: 'large';
}): SampleSite {
  const { segments: count, aps, holes = 0, seed = 1, size } = options;
  const id = sampleId(9, 0);
  const segments = Array.from({ length: count }, (_, i) => sampleSegment(i));
  const switches = options.switches ?? Math.max(1, Math.ceil(aps / 20));
  const [model, edge] = size === 'large' ? ['SW-48P', 48] : ['SW-24P', 24];
  const [up, down] = [String(edge + 1), String(edge + 2)];
  const each = options.switches === undefined ? 20 : Math.ceil(aps / switches); // APs a switch
  const device = (kind: string, model: string, index: number): RosterDevice => ({
    id: sampleId(kind === 'gw' ? 2 : kind === 'sw' ? 3 : 4, index),
    siteId: id,
    name: `x-${kind}-${String(index + 1).padStart(2, '0')}`,
    serial: `${kind.toUpperCase()}-${String(index).padStart(4, '0')}`,
    model,
  });
  const gateway = device('gw', 'GW-4', 0);
  const chain = Array.from({ length: switches }, (_, i) => device('sw', model, i));
  const outer = Array.from({ length: aps }, (_, i) => device('ap', 'AP-6E', i));
  const links: Link[] = [{ a: { deviceId: gateway.id, port: '1' }, b: { deviceId: chain[0]!.id, port: up } }];
  for (const [i, next] of chain.entries())
    if (i > 0) links.push({ a: { deviceId: chain[i - 1]!.id, port: down }, b: { deviceId: next.id, port: up } });
  const sent = segments.slice(1, 9);
  const ports: Record<string, Record<string, { untagged: string | null; tagged: string[] }>> = {};
  for (const [i, ap] of outer.entries()) {
    const [at, port] = [chain[Math.floor(i / each)]!, String((i % each) + 1)];
    links.push({ a: { deviceId: at.id, port }, b: { deviceId: ap.id, port: 'lan' } });
    (ports[at.id] ??= {})[port] = { untagged: segments[0]!.id, tagged: sent.map((segment) => segment.id) };
  }
  const random = randomFrom(seed);
  const settings = Object.values(ports).flatMap((each) => Object.values(each));
  // Nobody can plug in where nothing hangs.
  for (const [i, { id: at }] of chain.entries())
    for (let port = Math.max(0, Math.min(each, aps - i * each)) + 1; port <= edge; port++) {
      const untagged = size === 'large' ? segments[(i * edge + port) % count]!.id : null;
      (ports[at] ??= {})[String(port)] = { untagged, tagged: [] };
    }
  for (let i = 0; i < holes; i++) settings[random(settings.length)]!.tagged.splice(random(sent.length), 1);
  const site: SitePart = {
    kind: 'site',
    id,
    name: 'Sample',
    code: 'x',
    country: 'IE',
    timeZone: 'Europe/Dublin',
    managementId: segments[0]!.id,
    segments,
    ports,
  };
  const ssids = sent.map((segment, i) => ({
    id: sampleId(5, i),
    name: `SSID ${i + 1}`,
    security: 'wpa2-wpa3-psk' as const,
    passphrase: { secret: sampleId(6, i) },
    bands: ['2.4', '5', '6'] as const,
    segment: segment.name,
    reach: { kind: 'estate' as const },
  }));
  const intent: Intent = {
    estate: { kind: 'estate', id: sampleId(8, 0), name: 'Estate', ssids },
    sites: new Map([[id, site]]),
  };
  return { intent, site, roster: [gateway, ...chain, ...outer], links };
}
