import {
  contains,
  formatIp,
  formatPrefix,
  givableAddresses,
  nextFreePrefix,
  offsetIp,
  overlaps,
  parseIp,
  parsePrefix,
  prefixOf,
  usableHosts,
  type IpAddress,
  type IpRange,
  type Prefix,
} from '../address';
import {
  spansOf,
  spotAt,
  spotOf,
  spotsMeet,
  type AddressService,
  type Intent,
  type Segment,
  type Segment6,
  type SitePart,
  type Spot,
} from '../intent';

/** Where subnets are taken from, in this order (RFC 1918 §3). */
export const POOLS = ['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16'].map((text) => parsePrefix(text)!);
const SEGMENT_LENGTH = 24;
const SITE_LENGTH = 16;
/** What a new site gets room in: a /16 of its own, and smaller blocks once those are given out. */
const ROOM_LENGTHS = [SITE_LENGTH, 20, 22, SEGMENT_LENGTH];
/** Addresses at the start of a subnet kept back for boxes with fixed addresses, where the subnet is large enough. */
const KEPT_BACK = 19n;
const LEASE_SECONDS = 8 * 3600;

/** Addresses for a segment. */
export interface SegmentProposal {
  readonly subnet: string;
  readonly gateway: string;
  readonly addresses: AddressService | null;
}

/**
 * Proposes subnet, gateway and address range for a segment that has a VLAN ID. The subnet is a free /24 of the
 * whole estate: in the site's own /16 with the VLAN ID as third octet where it can be, else the next free one
 * there, else anywhere in private space.
 * @param typed a subnet or gateway somebody typed; the rest follows it.
 * @returns null when no /24 is free, or the typed subnet cannot be read.
 */
export function proposeSegment(
  intent: Intent,
  siteId: string,
  vlan: number,
  typed: { subnet?: string | undefined; gateway?: string | undefined } = {},
): SegmentProposal | null {
  const subnet = typed.subnet ? parsePrefix(typed.subnet) : freeSubnet(intent, siteId, vlan);
  if (!subnet) return null;
  const gateway = (typed.gateway ? parseIp(typed.gateway) : null) ?? firstHost(subnet);
  return { subnet: formatPrefix(subnet), gateway: formatIp(gateway), addresses: proposeAddresses(subnet, gateway) };
}

/**
 * The range an address service gives by default: behind the kept-back start and clear of the gateway.
 * @param others further addresses that somebody has.
 */
export function proposeAddresses(
  subnet: Prefix,
  gateway: IpAddress,
  others: readonly IpAddress[] = [],
): AddressService | null {
  const hosts = usableHosts(subnet);
  const keep = hosts.count > KEPT_BACK * 4n;
  const reserved: IpRange[] = keep
    ? [{ version: subnet.version, first: hosts.first, last: hosts.first + KEPT_BACK - 1n }]
    : [];
  for (const { version, value } of others) reserved.push({ version, first: value, last: value });
  const range = givableAddresses(subnet, gateway, reserved).defaultRange;
  if (!range) return null;
  const text = (value: bigint): string => formatIp({ version: subnet.version, value });
  return { first: text(range.first), last: text(range.last), leaseSeconds: LEASE_SECONDS };
}

/**
 * An address for a box that gives a segment's addresses without routing it: the first host of the subnet that is neither
 * the gateway's, nor in a range that is given out, nor reserved.
 * @returns null when there is none, or the segment's subnet cannot be read.
 */
export function proposeServerAddress({ subnet, gateway, addresses }: Segment): string | null {
  const prefix = parsePrefix(subnet);
  if (!prefix) return null;
  const { first, last } = usableHosts(prefix);
  const single = [gateway, ...(addresses?.reservations ?? []).map((each) => each.address)];
  const taken = [...single.map((text) => ({ first: text, last: text })), ...(addresses ? spansOf(addresses) : [])]
    .flatMap((span) => {
      const [from, to] = [parseIp(span.first), parseIp(span.last)];
      return from && to ? [{ from: from.value, to: to.value }] : [];
    })
    .sort((a, b) => (a.from < b.from ? -1 : 1));
  let free = first;
  for (const { from, to } of taken) if (from <= free && to >= free) free = to + 1n;
  return free > last ? null : formatIp({ version: prefix.version, value: free });
}

/**
 * The management subnet of a new site: in a /16 that nobody uses, else in the largest room that is left between the subnets of
 * others; null when private space is used up.
 */
export function proposeSiteSubnet(intent: Intent, vlan: number): Prefix | null {
  const used = [...spotsOf(intent), spotAt({ ...POOLS[0]!, length: SITE_LENGTH })];
  for (const length of ROOM_LENGTHS) {
    const block = firstFree(length, used);
    if (!block) continue;
    const wanted = byThirdOctet(block, vlan);
    return wanted && contains(block, wanted) ? wanted : { ...block, length: SEGMENT_LENGTH };
  }
  return null;
}

/** The first block of a length, in the order of the pools, of which nobody has an address. */
function firstFree(length: number, used: readonly Spot[]): Prefix | null {
  for (const pool of POOLS) {
    const [start, size] = [Number(pool.network), 2 ** (32 - length)];
    const taken = new Uint8Array(2 ** (length - pool.length));
    for (const { first, last } of used) {
      const to = Math.min(taken.length - 1, Math.floor((last - start) / size));
      for (let at = Math.max(0, Math.floor((first - start) / size)); first >= 0 && at <= to; at++) taken[at] = 1;
    }
    const at = taken.indexOf(0);
    if (at >= 0) return { version: 4, network: pool.network + BigInt(at * size), length };
  }
  return null;
}

function freeSubnet(intent: Intent, siteId: string, vlan: number): Prefix | null {
  const block = siteBlock(intent, siteId);
  if (block) {
    const used = subnetsWithin(intent, block);
    const wanted = byThirdOctet(block, vlan);
    if (wanted && !used.some((each) => overlaps(each, wanted))) return wanted;
    const next = nextFreePrefix(block, used, SEGMENT_LENGTH);
    if (next) return next;
  }
  for (const pool of POOLS) {
    const next = nextFreePrefix(pool, subnetsWithin(intent, pool), SEGMENT_LENGTH);
    if (next) return next;
  }
  return null;
}

/** The /16 around the site's management subnet, when that is private IPv4 and the block is no one else's alone. */
function siteBlock(intent: Intent, siteId: string): Prefix | null {
  const site = intent.sites.get(siteId);
  const management = site?.segments.find((segment) => segment.id === site.managementId);
  const subnet = management && parsePrefix(management.subnet);
  if (!subnet || subnet.version !== 4 || !POOLS.some((pool) => contains(pool, subnet))) return null;
  return prefixOf({ version: 4, value: subnet.network }, SITE_LENGTH);
}

const byThirdOctet = (block: Prefix, vlan: number): Prefix | null =>
  vlan <= 255 ? { ...block, network: block.network + (BigInt(vlan) << 8n), length: SEGMENT_LENGTH } : null;

const firstHost = (subnet: Prefix): IpAddress =>
  offsetIp({ version: subnet.version, value: usableHosts(subnet).first }, 0);

function spotsOf({ sites }: Intent): Spot[] {
  const spots: Spot[] = [];
  for (const { segments } of sites.values())
    for (const segment of segments) {
      const spot = spotOf(segment);
      if (spot) spots.push(spot);
    }
  return spots;
}

/** Subnets of the estate that share an address with a prefix. */
export function subnetsWithin(intent: Intent, prefix: Prefix): Prefix[] {
  const around = spotAt(prefix);
  return spotsOf(intent)
    .filter((spot) => spotsMeet(spot, around))
    .map((spot) => spot.prefix);
}

/**
 * An IPv6 prefix for a segment: in the site's own /48 where another segment has one, else in a unique local one made
 * from the site's id, which is random (RFC 4193 §3.2.2); the VLAN ID, as written, is the subnet ID.
 */
export function proposeSegment6(site: SitePart, vlan: number): Segment6 {
  const known = site.segments.map((segment) => segment.v6 && parsePrefix(segment.v6.prefix)).find((prefix) => prefix);
  const global = BigInt(
    `0x${site.id
      .replace(/[^0-9a-f]/gi, '')
      .slice(0, 10)
      .padEnd(10, '0')}`,
  );
  const block = known ? known.network >> 80n : (0xfdn << 40n) | global;
  const network = (block << 80n) | (BigInt(`0x${vlan}`) << 64n);
  const text = (value: bigint): string => formatIp({ version: 6, value });
  return { prefix: `${text(network)}/64`, gateway: text(network + 1n), mode: 'slaac' };
}

/**
 * A prefix of 64 bits for a segment within one that a provider delegated: with the VLAN ID, as written, as its subnet ID where there is room
 * for it, else the lowest that no segment of the site has.
 * @returns null where none is left.
 */
export function segment6Within(delegated: Prefix, site: Pick<SitePart, 'segments'>, segment: Segment): Segment6 | null {
  const most = 1n << BigInt(64 - delegated.length);
  const taken = new Set(
    site.segments.flatMap(({ id, v6 }) => {
      const prefix = id === segment.id ? null : v6 && parsePrefix(v6.prefix);
      return prefix && contains(delegated, { version: 6, value: prefix.network })
        ? [(prefix.network - delegated.network) >> 64n]
        : [];
    }),
  );
  const wanted = BigInt(`0x${segment.vlan}`);
  let id = wanted < most ? wanted : 0n;
  if (taken.has(id)) for (id = 0n; id < most && taken.has(id);) id++;
  if (id >= most) return null;
  const network = delegated.network + (id << 64n);
  const text = (value: bigint): string => formatIp({ version: 6, value });
  const moved = (address: string): string => text(network | (parseIp(address)!.value & ((1n << 64n) - 1n)));
  const { first, last, mode } = segment.v6 ?? { mode: 'slaac' as const };
  return {
    ...{ prefix: `${text(network)}/64`, gateway: text(network + 1n), mode },
    ...(first === undefined || last === undefined ? {} : { first: moved(first), last: moved(last) }),
  };
}
