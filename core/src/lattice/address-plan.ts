import {
  classOf,
  contains,
  lastOf,
  parseIp,
  parsePrefix,
  rangeOf,
  rangeSize,
  subtractPrefixes,
  type AddressClass,
  type Prefix,
} from '../address';
import { servedFrom, type Intent } from '../intent';
import { poolsOf } from './segment-export';

/** A prefix of the estate and who holds it. */
export interface PlanEntry {
  readonly siteId: string;
  readonly siteName: string;
  readonly segmentId: string;
  readonly name: string;
  readonly vlan: number;
  /** Canonical text. */
  readonly prefix: string;
  readonly class: AddressClass;
  /** Addresses that can be given out or reserved; null where nobody of ours gives any. */
  readonly capacity: number | null;
  /** Leases, reservations and fixed addresses, each address once; null where nobody knows. */
  readonly used: number | null;
}

/** What is known of addresses in use, by site: leases and devices’ own. */
export type AddressesInUse = ReadonlyMap<string, readonly string[]>;

/** What the address plan screen is given. */
export interface AddressPlan {
  readonly entries: readonly PlanEntry[];
  /** Addresses that providers gave uplinks. */
  readonly uplinks: readonly {
    readonly siteId: string;
    readonly device: string;
    readonly port: string;
    readonly address: string;
  }[];
}

/** Every segment's prefixes of an estate, IPv4 before IPv6, in order of address. */
export function planEntries(intent: Intent, inUse: AddressesInUse): PlanEntry[] {
  const entries: { readonly entry: PlanEntry; readonly prefix: Prefix }[] = [];
  for (const site of intent.sites.values()) {
    const taken = (inUse.get(site.id) ?? []).map((text) => parseIp(text)).filter((ip) => ip !== null);
    for (const { id, name, vlan, subnet, addresses, v6 } of site.segments) {
      const base = { siteId: site.id, siteName: site.name, segmentId: id, name, vlan };
      const prefix = parsePrefix(subnet);
      const class_ = (of: Prefix): AddressClass => classOf({ version: of.version, value: of.network });
      if (prefix) {
        const used = new Set(taken.filter((ip) => contains(prefix, ip)).map((ip) => ip.value));
        const reserved = (addresses?.reservations ?? []).map((each) => parseIp(each.address)!.value);
        for (const value of reserved) used.add(value);
        const ours = addresses !== null && servedFrom(addresses).kind !== 'relay';
        const given = (ours ? poolsOf(addresses) : []).map(({ first, last }) => ({
          first: parseIp(first)!.value,
          last: parseIp(last)!.value,
        }));
        const inside = (value: bigint): boolean => given.some(({ first, last }) => value >= first && value <= last);
        // What lies outside the ranges is used as well, and counts as room of its own.
        const apart = [...used].filter((value) => !inside(value)).length;
        const capacity = ours ? given.reduce((sum, { first, last }) => sum + Number(last - first + 1n), apart) : null;
        entries.push({
          entry: { ...base, prefix: subnet, class: class_(prefix), capacity, used: ours ? used.size : null },
          prefix,
        });
      }
      const prefix6 = v6 && parsePrefix(v6.prefix);
      if (prefix6)
        entries.push({
          entry: { ...base, prefix: v6.prefix, class: class_(prefix6), capacity: null, used: null },
          prefix: prefix6,
        });
    }
  }
  return entries.sort((a, b) => byAddress(a.prefix, b.prefix)).map(({ entry }) => entry);
}

const byAddress = (a: Prefix, b: Prefix): number =>
  a.version - b.version || (a.network < b.network ? -1 : a.network > b.network ? 1 : a.length - b.length);

/** Two prefixes that share addresses, by their place in the list. */
export interface PrefixOverlap {
  readonly outer: number;
  readonly inner: number;
}

/** A prefix as a stretch of numbers: of IPv4 in plain ones, which are exact there and much quicker. */
interface Stretch {
  readonly version: number;
  readonly first: number | bigint;
  readonly last: number | bigint;
}
const stretchOf = (prefix: Prefix): Stretch => {
  const { version, network, length } = prefix;
  if (version === 6) return { version, first: network, last: lastOf(prefix) };
  const first = Number(network);
  return { version, first, last: first + 2 ** (32 - length) - 1 };
};

/**
 * Every pair of prefixes that share an address. Prefixes never cross (RFC 4632 §3.1), so those that overlap nest: one
 * walk in order of address with the open ones on a stack; O(n log n + k) for k pairs.
 */
export function findOverlaps(prefixes: readonly Prefix[]): PrefixOverlap[] {
  const stretches = prefixes.map(stretchOf);
  // The outer of two that start together comes first.
  const order = prefixes
    .map((_, i) => i)
    .sort((i, j) => {
      const [a, b] = [stretches[i]!, stretches[j]!];
      if (a.version !== b.version) return a.version - b.version;
      if (a.first !== b.first) return a.first < b.first ? -1 : 1;
      return a.last !== b.last ? (a.last > b.last ? -1 : 1) : i - j;
    });
  const pairs: PrefixOverlap[] = [];
  const open: number[] = [];
  for (const inner of order) {
    const { version, last } = stretches[inner]!;
    for (let top = open.at(-1); top !== undefined; top = open.at(-1)) {
      const outer = stretches[top]!;
      if (outer.version === version && outer.last >= last) break;
      open.pop();
    }
    for (const outer of open) pairs.push({ outer, inner });
    open.push(inner);
  }
  return pairs;
}

/** The share of a prefix that others take, 0 to 1. */
export function shareTaken(parent: Prefix, prefixes: readonly Prefix[]): number {
  const left = subtractPrefixes(parent, prefixes).reduce((sum, prefix) => sum + rangeSize(rangeOf(prefix)), 0n);
  const whole = rangeSize(rangeOf(parent));
  return 1 - Number((left * 1_000_000n) / whole) / 1_000_000;
}
