import { formatIp, parseIp, parsePrefix, usableHosts } from '@iron-lattice/core/address';
import type { AddressServiceDocument, Interface6Document, SpanDocument } from '@iron-lattice/core/document';
import type { LeaseReport } from '@iron-lattice/core/line';

interface Lease {
  readonly vlan: number;
  readonly mac: string;
  address: string;
  since: number;
  name: string | undefined;
}

/** The leases of every box that gives addresses: reserved ones as reserved, others the lowest that is free. */
export class Leases {
  private readonly byServer = new Map<string, Map<string, Lease>>();
  /** IPv6 addresses by MAC, by server and VLAN. */
  private readonly sixes = new Map<string, Map<string, bigint>>();

  /** Gives an address out, or the one held before where the service still gives that. @returns null when none is free. */
  give(server: string, service: AddressServiceDocument, mac: string, name?: string): string | null {
    const table = this.byServer.get(server) ?? new Map<string, Lease>();
    this.byServer.set(server, table);
    const key = `${service.vlan} ${mac}`;
    const held = table.get(key);
    const reserved = service.reservations?.find((each) => each.mac === mac)?.address;
    const address = reserved ?? (held && gives(service, held.address) ? held.address : this.free(table, service));
    if (address === null) return null;
    if (held?.address !== address) table.set(key, { vlan: service.vlan, mac, address, since: Date.now(), name });
    else if (name !== undefined) held.name = name;
    return address;
  }

  /** Gives an IPv6 address out by DHCPv6 (RFC 8415): the one held before where it is still given, else the lowest free. */
  give6(server: string, { vlan, first, last, address }: Interface6Document, mac: string): string | null {
    const [low, high] = [parseIp(first ?? ''), parseIp(last ?? '')];
    if (!low || !high) return null;
    const key = `${server} ${vlan}`;
    const table = this.sixes.get(key) ?? new Map<string, bigint>();
    this.sixes.set(key, table);
    const held = table.get(mac);
    if (held !== undefined && held >= low.value && held <= high.value) return formatIp({ version: 6, value: held });
    const taken = new Set([...table.values(), parseIp(address.split('/')[0]!)!.value]);
    for (let { value } = low; value <= high.value; value++) {
      if (taken.has(value)) continue;
      table.set(mac, value);
      return formatIp({ version: 6, value });
    }
    return null;
  }

  /** What a box reports of its leases. */
  of(server: string): LeaseReport[] {
    return [...(this.byServer.get(server)?.values() ?? [])].map(({ vlan, mac, address, since, name }) => ({
      vlan,
      mac,
      address,
      since,
      ...(name === undefined ? {} : { name }),
    }));
  }

  /** What one server gave out another knows as well. */
  tell(from: string, to: string): void {
    const known = this.byServer.get(from);
    if (!known || known.size === 0) return;
    const table = this.byServer.get(to) ?? new Map<string, Lease>();
    this.byServer.set(to, table);
    for (const [key, lease] of known) if (table.get(key)?.address !== lease.address) table.set(key, { ...lease });
    for (const [key, table6] of this.sixes)
      if (key.startsWith(`${from} `)) this.sixes.set(`${to}${key.slice(from.length)}`, new Map(table6));
  }

  private free(table: ReadonlyMap<string, Lease>, service: AddressServiceDocument): string | null {
    const taken = new Set([...table.values()].map((lease) => lease.address));
    for (const { first, last } of [service, ...(service.also ?? [])]) {
      const end = parseIp(last)!.value;
      for (let value = parseIp(first)!.value; value <= end; value++) {
        const address = formatIp({ version: 4, value });
        if (!taken.has(address) && gives(service, address)) return address;
      }
    }
    return null;
  }
}

/** Whether a service may give an address to anybody. */
function gives(service: AddressServiceDocument, address: string): boolean {
  const value = parseIp(address)!.value;
  const within = ({ first, last }: SpanDocument): boolean =>
    value >= parseIp(first)!.value && value <= parseIp(last)!.value;
  if (address === service.gateway || address === service.own) return false;
  if (service.reservations?.some((each) => each.address === address)) return false;
  return [service, ...(service.also ?? [])].some(within) && !(service.exclude?.some(within) ?? false);
}

/** What an outside server gives to the clients of a relay: all hosts of the relay's subnet from the tenth on. */
export function outsideService(vlan: number, relay: string): AddressServiceDocument | null {
  const subnet = parsePrefix(relay);
  if (!subnet) return null;
  const hosts = usableHosts(subnet);
  const text = (value: bigint): string => formatIp({ version: 4, value });
  const first = hosts.first + 9n <= hosts.last ? hosts.first + 9n : hosts.last;
  const gateway = relay.split('/')[0]!;
  return {
    vlan,
    subnet: relay,
    first: text(first),
    last: text(hosts.last),
    gateway,
    dns: [gateway],
    leaseSeconds: 3600,
  };
}
