import { parseIp } from '../address';
import { NOWHERE_ROUTED, servedFrom, type Segment } from '../intent';
import type { GridColumn, GridRow } from './lattice-grid';
import { poolsOf } from './segment-export';

/** How full a segment's addresses are. */
export interface Fullness {
  readonly used: number;
  readonly capacity: number;
}

/** Addresses as numbers, each once; what is none is left out. */
export const addressValues = (addresses: readonly string[]): bigint[] => [
  ...new Set(addresses.flatMap((text) => parseIp(text)?.value ?? [])),
];

/**
 * Leases, reservations and whatever else is known to be taken of a segment, against what it can give.
 * @param inUse IPv4 addresses of the site that somebody has, as numbers: parsed once for all its segments.
 * @returns null where nobody of ours gives addresses.
 */
export function fullnessOf({ addresses }: Segment, inUse: readonly bigint[]): Fullness | null {
  if (!addresses || servedFrom(addresses).kind === 'relay') return null;
  const pools = poolsOf(addresses).map(({ first, last }) => [parseIp(first)!.value, parseIp(last)!.value] as const);
  const inside = (value: bigint): boolean => pools.some(([first, last]) => value >= first && value <= last);
  const reserved = addressValues((addresses.reservations ?? []).map((each) => each.address));
  const used = new Set([...inUse, ...reserved].filter(inside));
  return { used: used.size, capacity: pools.reduce((sum, [first, last]) => sum + Number(last - first + 1n), 0) };
}

/** What a row of the grid shows, in one sentence: who carries the segment, who routes it, what it gives, what is missing. */
export function rowInWords(row: GridRow, columns: readonly GridColumn[], fullness: Fullness | null): string {
  const { segment, cells } = row;
  if (segment.off) return `${segment.name}: switched off`;
  const met = columns.filter(({ key }) => cells[key] !== undefined);
  const lacking = new Set(row.missing);
  const missing = met.filter(({ key }) => lacking.has(key));
  const count = (n: number, one: string): string => `${n} ${one}${n === 1 ? '' : 's'}`;
  const ssids = met.filter(({ key }) => key.startsWith('ssid:'));
  const aps = met.filter(({ key, group }) => key.startsWith('device:') && group === 'Access points');
  const tunnelled = aps.filter(({ key }) => cells[key] === 'tunnel');
  const switches = new Set(met.flatMap(({ key, deviceId }) => (key.startsWith('port:') ? [deviceId] : [])));
  const routers = met.filter(
    ({ key, group }) => (key.startsWith('device:') && group === 'Gateway') || key.startsWith('router:'),
  );
  const unrouted = segment.routed === NOWHERE_ROUTED ? 'carried only' : 'routed by no gateway';
  const parts = [
    ...(ssids.length > 0 ? [`on ${ssids.map(({ label }) => label).join(' and ')}`] : []),
    ...(aps.length > 0 ? [count(aps.length, 'AP')] : []),
    ...(tunnelled.length > 0
      ? [`${tunnelled.length === aps.length ? '' : `${tunnelled.length} of them `}in a tunnel`]
      : []),
    ...(switches.size > 0 ? [`${switches.size} ${switches.size === 1 ? 'switch' : 'switches'}`] : []),
    routers.length > 0 ? `routed by ${routers.map(({ label }) => label).join(', ')}` : unrouted,
    addressWords(segment),
    ...(fullness && fullness.capacity > 0 ? [`${Math.round((100 * fullness.used) / fullness.capacity)}% used`] : []),
    ...(missing.length > 0 ? [`missing at ${missing.map(({ group, label }) => `${group} ${label}`).join(', ')}`] : []),
  ];
  return `${segment.name}: ${parts.join(', ')}`;
}

function addressWords({ addresses, gateway }: Segment): string {
  if (!addresses) return 'no addresses given';
  const from = servedFrom(addresses);
  const { first, last } = addresses;
  const shared = gateway.split('.').slice(0, 3).join('.');
  const short = last.startsWith(`${shared}.`) && first.startsWith(`${shared}.`) ? last.split('.')[3]! : last;
  const by = { gateway: '', switch: ' by a switch', relay: ' asked elsewhere', ap: ' by APs' }[from.kind];
  return from.kind === 'relay' ? `addresses from ${from.server}` : `addresses ${first}–${short}${by}`;
}
