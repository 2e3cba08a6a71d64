/** One routed VLAN interface, as plain values. */
export interface IetfInterface {
  readonly vlan: number;
  readonly description: string;
  /** Addresses with the bits of their network. */
  readonly ipv4: readonly { readonly ip: string; readonly prefixLength: number }[];
  readonly ipv6: readonly { readonly ip: string; readonly prefixLength: number }[];
}

/**
 * Writes interfaces as RFC 7951 JSON of `ietf-interfaces` (RFC 8343) with the addresses of `ietf-ip` (RFC 8344), by
 * VLAN ID, with a final newline. Each is an `l2vlan` named `vlan` and its ID, and forwards.
 */
export function writeIetfInterfaces(interfaces: readonly IetfInterface[]): string {
  const list = [...interfaces]
    .sort((a, b) => a.vlan - b.vlan)
    .map(({ vlan, description, ipv4, ipv6 }) => ({
      name: `vlan${vlan}`,
      description,
      type: 'iana-if-type:l2vlan',
      enabled: true,
      ...(ipv4.length > 0 ? { 'ietf-ip:ipv4': addresses(ipv4) } : {}),
      ...(ipv6.length > 0 ? { 'ietf-ip:ipv6': addresses(ipv6) } : {}),
    }));
  return `${JSON.stringify({ 'ietf-interfaces:interfaces': { interface: list } }, null, 2)}\n`;
}

const addresses = (list: IetfInterface['ipv4']) => ({
  enabled: true,
  forwarding: true,
  address: list.map(({ ip, prefixLength }) => ({ ip, 'prefix-length': prefixLength })),
});
