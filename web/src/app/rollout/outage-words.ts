import { OUTAGE_SECONDS, type Outage } from '@iron-lattice/core/document';
import type { SiteReviewView } from '@iron-lattice/core/assess';

const list = (words: readonly string[]): string =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
/** Ports and VLANs that are named of one. */
const MOST = 6;
const some = (words: readonly string[]): string =>
  words.length <= MOST ? list(words) : `${words.slice(0, MOST).join(', ')} and ${words.length - MOST} more`;

/** A time as people say it. @param seconds null: until it is said otherwise. */
export function awayFor(seconds: number | null): string {
  if (seconds === null) return 'until it is said otherwise';
  if (seconds < 120) return `${seconds} s at most`;
  const minutes = Math.round(seconds / 60);
  return minutes < 120 ? `${minutes} min at most` : `${Math.round(minutes / 60)} h at most`;
}

/** What is expected to be away at a device, in words. @param nameOf names a segment by its VLAN ID. */
export function outageWords({ what, where, vlans, seconds }: Outage, nameOf: (vlan: number) => string): string {
  const ports = `${where.length === 1 ? 'port' : 'ports'} ${some(where)}`;
  const segments = some(vlans.map(nameOf));
  switch (what) {
    case 'radio':
      return radioWords(`its ${list(where)} GHz`, where.length === 1, seconds);
    case 'branch':
      return `${some(where)}, which ${where.length === 1 ? 'hangs' : 'hang'} on it by radio, away ${awayFor(seconds)}`;
    case 'port':
      return `${ports} ${where.length === 1 ? 'goes' : 'go'} down: ${awayFor(seconds)}`;
    case 'power':
      return `no power from ${ports} ${awayFor(seconds)}`;
    case 'clients':
      return `clients of ${segments || 'SSIDs that are carried to other sites'}${where.length > 0 ? ` at ${ports}` : ''} need another address: ${awayFor(seconds)}`;
    case 'carriage':
      return `${segments} ${vlans.length === 1 ? 'stops' : 'stop'} at ${ports}`;
    case 'gateway':
      return `${segments} without a gateway ${awayFor(seconds)}`;
    case 'uplink':
      return `${where.length === 1 ? 'uplink' : 'uplinks'} ${some(where)}: ${awayFor(seconds)}`;
    case 'device':
      return `it is away itself: ${awayFor(seconds)}`;
  }
}

function radioWords(which: string, one: boolean, seconds: number | null): string {
  if (seconds === null) return `${which} ${one ? 'radio goes' : 'radios go'} off`;
  const listens = seconds > OUTAGE_SECONDS.radio ? `, ${one ? 'listening' : 'each listening'} for radar first` : '';
  return `${which} ${one ? 'radio restarts' : 'radios restart'}${listens}: clients away ${awayFor(seconds)}`;
}

/** What a segment feels, over all sites. */
export interface FeltSegment {
  readonly name: string;
  /** The longest of all; null: until it is said otherwise. */
  readonly seconds: number | null;
  readonly devices: number;
  readonly sites: number;
}

/** What is expected to be away by segment, over many sites; the longest first. */
export function feltSegments(reviews: readonly SiteReviewView[]): readonly FeltSegment[] {
  const felt = new Map<string, { seconds: number | null; devices: Set<string>; sites: Set<string> }>();
  for (const { siteId, changes, outages, segments } of reviews)
    for (const { deviceId, away } of changes)
      for (const { vlans, seconds } of outages[away] ?? [])
        for (const vlan of vlans) {
          const name = segments[vlan] ?? `VLAN ${vlan}`;
          const one = felt.get(name) ?? { seconds: 0, devices: new Set(), sites: new Set() };
          felt.set(name, one);
          one.seconds = one.seconds === null || seconds === null ? null : Math.max(one.seconds, seconds);
          one.devices.add(deviceId);
          one.sites.add(siteId);
        }
  const rank = (seconds: number | null): number => seconds ?? Infinity;
  return [...felt]
    .map(([name, { seconds, devices, sites }]) => ({ name, seconds, devices: devices.size, sites: sites.size }))
    .sort((a, b) => rank(b.seconds) - rank(a.seconds) || b.devices - a.devices || (a.name < b.name ? -1 : 1));
}
