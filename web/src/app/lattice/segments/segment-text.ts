import type { Flaw } from '@iron-lattice/core/base';
import type { RosterDevice, Segment } from '@iron-lattice/core/intent';
import { cellsOf, segmentFromCells } from '@iron-lattice/core/lattice';

/** A segment as people read and type it. */
export interface SegmentText {
  readonly name: string;
  readonly vlan: string;
  readonly subnet: string;
  readonly gateway: string;
  readonly first: string;
  readonly last: string;
  readonly leaseHours: string;
  /** Further ranges, `a-b; c-d`. */
  readonly also: string;
  readonly exclusions: string;
  /** One a line: MAC, address, name. */
  readonly reservations: string;
  readonly dns: string;
  readonly route: string;
  readonly ntp: string;
  /** One a line: number=value. */
  readonly options: string;
  readonly servedBy: ServedBy;
  /** Names of devices. */
  readonly servedDevices: string;
  /** Of the switch, or of the outside server. */
  readonly servedAddress: string;
  readonly domain: string;
  readonly purpose: string;
  /** What its clients are kept from: `segments`, `clients`, `gateway`, parted by blanks. */
  readonly isolation: string;
  readonly v6prefix: string;
  readonly v6gateway: string;
  readonly v6mode: 'slaac' | 'stateless' | 'stateful';
  readonly v6range: string;
}
export type ServedBy = 'gateway' | 'switch' | 'relay' | 'each ap' | 'one ap' | 'tree' | 'none';

/** A segment nobody has typed anything into. */
export const EMPTY_TEXT: SegmentText = {
  name: '',
  vlan: '',
  subnet: '',
  gateway: '',
  first: '',
  last: '',
  leaseHours: '',
  also: '',
  exclusions: '',
  reservations: '',
  dns: '',
  route: '',
  ntp: '',
  options: '',
  servedBy: 'gateway',
  servedDevices: '',
  servedAddress: '',
  domain: '',
  purpose: '',
  isolation: '',
  v6prefix: '',
  v6gateway: '',
  v6mode: 'slaac',
  v6range: '',
};

/** A segment as text for its fields. */
export function textOf(segment: Segment, roster: readonly RosterDevice[] = []): SegmentText {
  const cells = cellsOf(segment, roster);
  const { addresses, v6 } = segment;
  const from = addresses?.from;
  const lines = (text: string): string => text.replace(/(?<!\\); /g, '\n').replace(/\\(.)/g, '$1');
  const devices = from?.kind === 'ap' ? from.deviceIds : from?.kind === 'switch' ? [from.deviceId] : [];
  return {
    name: segment.name,
    vlan: cells.vlan,
    subnet: segment.subnet,
    gateway: segment.gateway,
    first: addresses?.first ?? '',
    last: addresses?.last ?? '',
    leaseHours: addresses ? String(addresses.leaseSeconds / 3600) : '8',
    also: (addresses?.also ?? []).map(({ first, last }) => `${first}-${last}`).join('; '),
    exclusions: cells.exclusions,
    reservations: lines(cells.reservations),
    dns: cells.dns,
    route: cells.route,
    ntp: cells.ntp,
    options: lines(cells.options),
    servedBy: !addresses ? 'none' : from?.kind === 'ap' ? HOW[from.how] : (from?.kind ?? 'gateway'),
    servedDevices: devices.map((id) => roster.find((device) => device.id === id)?.name ?? id).join(' '),
    servedAddress: from?.kind === 'switch' ? from.address : from?.kind === 'relay' ? from.server : '',
    domain: cells.domain,
    purpose: cells.purpose,
    isolation: cells.isolation,
    v6prefix: v6?.prefix ?? '',
    v6gateway: v6?.gateway ?? '',
    v6mode: v6?.mode ?? 'slaac',
    v6range: v6?.first && v6.last ? `${v6.first}-${v6.last}` : '',
  };
}
const HOW = { each: 'each ap', one: 'one ap', tree: 'tree' } as const;

/** Fields of a form by the column a flaw of core names. */
const FIELD_OF: Readonly<Record<string, string>> = {
  ranges: 'first',
  served: 'from',
  ipv6: 'v6',
  lease: 'leaseSeconds',
};

/**
 * The segment that fields say; an empty range means that nobody gives addresses. What is wrong with it core says;
 * what cannot be read at all is among `flaws`.
 */
export function segmentOf(
  id: string,
  text: SegmentText,
  roster: readonly RosterDevice[] = [],
): { readonly segment: Segment; readonly flaws: readonly Flaw[] } {
  const served = text.servedBy !== 'none' && (text.first.trim() !== '' || text.last.trim() !== '');
  const guarded = (lines: string): string =>
    lines
      .split('\n')
      .map((line) => line.trim().replace(/[\\;]/g, '\\$&'))
      .filter((line) => line !== '')
      .join('; ');
  const seconds = Math.round(Number(text.leaseHours.replace(',', '.')) * 3600);
  const also = text.also.trim() === '' ? '' : `; ${text.also.trim()}`;
  const v6 = [text.v6prefix.trim(), text.v6gateway.trim(), text.v6mode, text.v6range.trim().replace(/\s*[-–]\s*/, '-')];
  const { segment, flaws } = segmentFromCells(
    id,
    {
      name: text.name.trim(),
      vlan: text.vlan,
      subnet: text.subnet.trim(),
      gateway: text.gateway.trim(),
      ranges: served ? `${text.first.trim()}-${text.last.trim()}${also}` : 'none',
      exclusions: text.exclusions,
      reservations: guarded(text.reservations),
      lease: Number.isFinite(seconds) ? String(Math.max(0, seconds)) : '0',
      dns: text.dns,
      route: text.route.trim(),
      ntp: text.ntp,
      options: guarded(text.options),
      served: servedText(text),
      domain: text.domain.trim(),
      purpose: text.purpose.trim(),
      isolation: text.isolation,
      ipv6: text.v6prefix.trim() === '' ? '' : v6.filter((part) => part !== '').join(' '),
    },
    roster,
  );
  return { segment, flaws: flaws.map((flaw) => ({ ...flaw, field: FIELD_OF[flaw.field ?? ''] ?? flaw.field ?? '' })) };
}

function servedText({ servedBy, servedDevices, servedAddress }: SegmentText): string {
  const [devices, address] = [servedDevices.trim(), servedAddress.trim()];
  if (servedBy === 'switch') return `switch ${devices} ${address}`;
  if (servedBy === 'relay') return `relay ${address}`;
  if (servedBy === 'one ap' || servedBy === 'tree') return `${servedBy} ${devices}`;
  return servedBy === 'each ap' ? 'each ap' : 'gateway';
}
