/** One subnet to serve, as plain values. Addresses are text, times seconds. */
export interface KeaSubnet {
  readonly vlan: number;
  readonly name: string;
  readonly subnet: string;
  /** Ranges to give from, exclusions already taken out. */
  readonly pools: readonly { readonly first: string; readonly last: string }[];
  readonly reservations: readonly { readonly mac: string; readonly address: string; readonly name: string }[];
  readonly leaseSeconds: number;
  readonly t1: number;
  readonly t2: number;
  /** Null: no default route is told. */
  readonly router: string | null;
  readonly dns: readonly string[];
  readonly domain: string | null;
  readonly ntp: readonly string[];
  /** Further options: number, and value in hex digits. */
  readonly options: readonly { readonly code: number; readonly hex: string }[];
}

/** Writes DHCP services as a Kea DHCPv4 configuration (JSON), with VLAN IDs as subnet ids and a final newline. */
export function writeKeaDhcp4(subnets: readonly KeaSubnet[]): string {
  const Dhcp4 = {
    'interfaces-config': { interfaces: [] },
    'lease-database': { type: 'memfile', persist: false },
    subnet4: [...subnets].sort((a, b) => a.vlan - b.vlan).map(subnetOf),
  };
  return `${JSON.stringify({ Dhcp4 }, null, 2)}\n`;
}

function subnetOf(subnet: KeaSubnet) {
  const { vlan, name, router, dns, domain, ntp, options } = subnet;
  const data = (name: string, list: readonly string[]) => (list.length > 0 ? [{ name, data: list.join(', ') }] : []);
  return {
    id: vlan,
    subnet: subnet.subnet,
    'user-context': { segment: name, vlan },
    'valid-lifetime': subnet.leaseSeconds,
    'renew-timer': subnet.t1,
    'rebind-timer': subnet.t2,
    pools: subnet.pools.map(({ first, last }) => ({ pool: `${first} - ${last}` })),
    'option-data': [
      ...data('routers', router === null ? [] : [router]),
      ...data('domain-name-servers', dns),
      ...data('domain-name', domain === null ? [] : [domain]),
      ...data('ntp-servers', ntp),
      ...options.map(({ code, hex }) => ({ code, 'csv-format': false, data: hex })),
    ],
    reservations: subnet.reservations.map(({ mac, address, name }) => ({
      'hw-address': mac,
      'ip-address': address,
      ...(name ? { 'user-context': { name } } : {}),
    })),
  };
}
