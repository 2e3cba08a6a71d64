import type { Flaw } from '@iron-lattice/core/base';
import { servedFrom, type RosterDevice, type Segment } from '@iron-lattice/core/intent';
import { cellsOf, segmentFromCells } from '@iron-lattice/core/lattice';
import { servedCell, writeServed } from './served-tokens';

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
  /** What gives its addresses, as `served-tokens` has it; empty: nobody. */
  readonly served: string;
  /** Of the switch that gives them. */
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
  served: 'gateway',
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
    served: addresses ? writeServed(servedFrom(addresses), roster) : '',
    servedAddress: from?.kind === 'switch' ? from.address : '',
    domain: cells.domain,
    purpose: cells.purpose,
    isolation: cells.isolation,
    v6prefix: v6?.prefix ?? '',
    v6gateway: v6?.gateway ?? '',
    v6mode: v6?.mode ?? 'slaac',
    v6range: v6?.first && v6.last ? `${v6.first}-${v6.last}` : '',
  };
}

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
  const served = text.served.trim() !== '' && (text.first.trim() !== '' || text.last.trim() !== '');
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
      served: servedCell(text.served, text.servedAddress.trim(), roster),
      domain: text.domain.trim(),
      purpose: text.purpose.trim(),
      isolation: text.isolation,
      ipv6: text.v6prefix.trim() === '' ? '' : v6.filter((part) => part !== '').join(' '),
    },
    roster,
  );
  return { segment, flaws: flaws.map((flaw) => ({ ...flaw, field: FIELD_OF[flaw.field ?? ''] ?? flaw.field ?? '' })) };
}
