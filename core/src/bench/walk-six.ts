import { contains, parsePrefix } from '../address';
import type { GatewayDocument } from '../document';
import type { UplinkFact } from './probe';

/** How whoever is in a VLAN gets to the internet by IPv6, in a sentence; empty where the VLAN has none. */
export function sixWords(
  { interfaces6 = [], uplinks }: Pick<GatewayDocument, 'interfaces6' | 'uplinks'>,
  vlan: number,
  factOf: (port: string) => UplinkFact | undefined,
): string {
  const face = interfaces6.find((each) => each.vlan === vlan);
  const own = face && parsePrefix(face.address);
  if (!own) return '';
  const having = uplinks.filter(({ port }) => factOf(port)?.six);
  const home = having.find(({ port }) => {
    const prefix = parsePrefix(factOf(port)?.six?.prefix ?? '');
    return prefix !== null && contains(prefix, { version: 6, value: own.network });
  });
  if (home) {
    const { port } = home;
    const fact = factOf(port)!;
    return fact.up && fact.good !== false
      ? ` IPv6 leaves by ${port}, which its prefix came from, and by no other.`
      : ` IPv6 does not leave: its prefix came from ${port}, which is gone.`;
  }
  return having.length > 0
    ? ` By IPv6 nothing comes back: ${face.address} is in no prefix that a provider gave.`
    : ' There is no IPv6 to the internet.';
}
