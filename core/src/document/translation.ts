import { pooledFor } from '../paths';
import { matcherOf, packetRuleOf, readAddresses, type Packet, type PolicyRule } from '../rules';

/** As what some are seen outside who leave by an uplink. */
export interface TranslationDocument extends Pick<PolicyRule, 'id' | 'name' | 'from' | 'to'> {
  readonly port: string;
  /** As the uplink’s own address, as themselves, or as one of these addresses: a host, a prefix or a range. */
  readonly as: 'uplink' | 'itself' | { readonly pool: string };
}

/** As what a packet is seen: the uplink’s own address, its own, or one of a pool. */
export type SeenAs = 'uplink' | 'itself' | { readonly address: bigint };

/**
 * Tells as what packets are seen that leave by an uplink: by the first translation that fits, else as the uplink says. Of a pool each address
 * inside has always the same (RFC 4787 REQ-2).
 */
export function translator(
  translations: readonly TranslationDocument[],
): (uplink: { readonly port: string; readonly translate: boolean }, packet: Packet) => SeenAs {
  const known = translations.map(({ port, as, ...ends }) => ({
    port,
    as: typeof as === 'string' ? as : readAddresses(as.pool)!,
    matches: matcherOf(packetRuleOf({ ...ends, verdict: 'allow', services: [{ protocol: 'any' }] })),
  }));
  return ({ port, translate }, packet) => {
    const found = known.find((each) => each.port === port && each.matches(packet));
    if (!found) return translate ? 'uplink' : 'itself';
    return typeof found.as === 'string' ? found.as : { address: pooledFor(packet.source, found.as) };
  };
}
