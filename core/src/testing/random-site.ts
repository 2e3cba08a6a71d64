import { sheetFor } from '../hardware';
import { AIRED, type Intent, type Link, type PortEntry, type RosterDevice, type SitePart } from '../intent';
import { randomFrom } from '../base';
import { sampleId, sampleSegment } from './sample-site';

/** A site of any shape: what is carried where is left to chance. */
export interface RandomSite {
  readonly intent: Intent;
  readonly site: SitePart;
  readonly roster: readonly RosterDevice[];
  readonly links: readonly Link[];
}

/**
 * Makes a site by a seed: one gateway, one to five switches and some APs, cabled as a tree, with duties, exceptions,
 * isolated ports, SSIDs and a pool of VLANs at random.
 */
export function randomSite(seed: number): RandomSite {
  const random = randomFrom(seed);
  const chance = (percent: number): boolean => random(100) < percent;
  const id = sampleId(9, 0);
  const segments = Array.from({ length: 2 + random(5) }, (_, i) => sampleSegment(i));
  const ids = segments.map((segment) => segment.id);
  const some = (): string[] => ids.filter(() => chance(40));
  const roster: RosterDevice[] = [];
  const links: Link[] = [];
  const free = new Map<string, string[]>();
  const add = (name: string, model: string): void => {
    const device = { id: sampleId(7, roster.length), siteId: id, name, serial: name.toUpperCase(), model };
    const names = sheetFor(device)
      .ports.filter((port) => port.role !== 'wan')
      .map((port) => port.name);
    const isAp = sheetFor(device).kind === 'ap';
    const own = isAp ? names[0]! : names.splice(random(names.length), 1)[0]!;
    const hosts = roster.filter((each) => (free.get(each.id)?.length ?? 0) > 0);
    if (hosts.length > 0) {
      const host = hosts[random(hosts.length)]!;
      const [port] = free.get(host.id)!.splice(random(free.get(host.id)!.length), 1);
      links.push({ a: { deviceId: host.id, port: port! }, b: { deviceId: device.id, port: own } });
    }
    free.set(device.id, isAp ? [] : names.filter((name) => name !== own));
    roster.push(device);
  };
  add('gw-01', 'GW-4');
  for (let i = 0, count = 1 + random(5); i < count; i++) add(`sw-0${i + 1}`, 'SW-8P');
  for (let i = 0, count = random(5); i < count; i++) add(`ap-0${i + 1}`, chance(50) ? 'AP-6W' : 'AP-6');

  const anyTagged = (without: string | null): 'all' | string[] =>
    chance(20) ? 'all' : [...some().filter((each) => each !== without), ...(chance(20) ? [AIRED] : [])];
  const carried = (): { untagged: string | null; tagged: 'all' | string[] } => {
    const untagged = chance(25) ? null : ids[random(ids.length)]!;
    return { untagged, tagged: anyTagged(untagged) };
  };
  const duties = [0, 1].map((i) => ({ id: sampleId(3, i), name: `Duty ${i}`, ...carried() }));
  const ports: Record<string, Record<string, PortEntry>> = {};
  for (const device of roster)
    for (const [i, port] of sheetFor(device).ports.entries()) {
      if (port.role === 'wan' || (sheetFor(device).kind === 'ap' && i === 0) || chance(35)) continue;
      const entry: PortEntry = {
        ...(chance(30) ? { dutyId: duties[random(2)]!.id } : carried()),
        ...(chance(15) ? { isolated: true } : {}),
      };
      (ports[device.id] ??= {})[port.name] = entry;
    }
  const site: SitePart = {
    kind: 'site',
    id,
    name: 'Random',
    code: 'r',
    country: 'IE',
    timeZone: 'Europe/Dublin',
    managementId: ids[0]!,
    segments,
    ports,
    duties,
    pools: [{ id: sampleId(2, 0), name: 'Pool', vlans: segments.map((segment) => segment.vlan).join(',') }],
  };
  const ssids = [segments.at(-1)!.name, ...(chance(50) ? ['Pool'] : [])].map((segment, i) => ({
    id: sampleId(5, i),
    name: `SSID ${i}`,
    security: 'wpa3-sae' as const,
    passphrase: { secret: sampleId(6, i) },
    bands: ['5', '6'] as const,
    segment,
    reach: { kind: 'estate' as const },
  }));
  const intent: Intent = {
    estate: { kind: 'estate', id: sampleId(8, 0), name: 'Estate', ssids },
    sites: new Map([[id, site]]),
  };
  return { intent, site, roster, links };
}
