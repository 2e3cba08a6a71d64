import { contains, parsePrefix, type IpAddress } from '@iron-lattice/core/address';
import { sameValue } from '@iron-lattice/core/base';
import type { UplinkDocument } from '@iron-lattice/core/document';
import type { Given6, Providers } from './providers';

/** IPv6 of an uplink as its gateway has it. */
export interface Six {
  readonly given: Given6;
  /** In milliseconds since 1970. */
  readonly since: number;
  /** What was delegated last: it is of this uplink also while that is gone. */
  readonly delegated: string | undefined;
}

/** What an uplink has of IPv6: nothing where it does not even come to an address of IPv4; null: it asks for none. @param mac the gateway’s. */
export function sixOf(
  providers: Pick<Providers, 'given6'>,
  { uplink, socket, mac, hasFour }: { uplink: UplinkDocument; socket: string; mac: string; hasFour: boolean },
  before: Six | null,
  at: number,
): Six | null {
  const asked = providers.given6(socket, uplink, uplink.mac ?? mac);
  if (!asked) return null;
  const given: Given6 = hasFour ? asked : { address: null, why: 'It has no link, or is not let in.' };
  if (before && sameValue(before.given, given)) return before;
  const fresh = given.address === null ? undefined : given.prefix;
  return { given, since: at, delegated: fresh ?? (uplink.six === 'prefix' ? before?.delegated : undefined) };
}

/**
 * IPv6 leaves by the uplink that its prefix came from, whichever others are used: no other provider would carry it (BCP 38, RFC 8678 §3).
 * What is in no prefix that was delegated leaves by the first that is used and has IPv6.
 * @param used in their order.
 */
export function leavesBySix(
  uplinks: readonly { readonly uplink: UplinkDocument; readonly six: Six | null; readonly good: boolean }[],
  used: readonly string[],
  source: IpAddress,
): UplinkDocument | null {
  const has = ({ six }: { readonly six: Six | null }): boolean => six !== null && six.given.address !== null;
  const home = uplinks.find(({ six }) => six?.delegated !== undefined && contains(parsePrefix(six.delegated)!, source));
  if (home) return home.good && has(home) ? home.uplink : null;
  for (const port of used) {
    const found = uplinks.find((each) => each.uplink.port === port);
    if (found && has(found)) return found.uplink;
  }
  return null;
}
