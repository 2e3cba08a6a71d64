import { parseIp } from '../../address';
import { agreeOn, innerOctets, narrowed, provesItself, type Agreed, type Suite } from '../../ike';
import type { SitePart } from '../part';
import { isReachedByGateway } from '../router/here';
import { usualMtu, type UplinkSetting } from '../uplink/setting';
import type { Pact, PactWord } from './pact';

/** The prefixes of a site that a pact’s other gateway reaches: its segments that the gateway knows a way to, as they stand, then what is said beside. */
export function hereOf(
  site: Pick<SitePart, 'segments' | 'routers'>,
  { segments, prefixes }: Pick<Pact, 'segments' | 'prefixes'>,
): string[] {
  const six = (each: SitePart['segments'][number]): string[] => (each.v6 ? [each.v6.prefix] : []);
  return [
    ...site.segments
      .filter((each) => segments.includes(each.id) && !each.off && isReachedByGateway(site, each))
      .flatMap((each) => [each.subnet, ...six(each)]),
    ...(prefixes ?? []),
  ];
}

/** What the other gateway is taken to be told: what its people say, else what the file for it says. */
export const wordOf = (pact: Pact, here: readonly string[]): PactWord =>
  pact.says ?? { ike: pact.ike, esp: pact.esp, own: pact.other, other: pact.own, there: pact.behind, here };

/** What two gateways come to agree on, and where they would not. */
export interface PactOutlook {
  readonly ike: Agreed;
  readonly esp: Agreed;
  /** Names that one expects and the other does not give, in a sentence; null: both are right. */
  readonly names: string | null;
  /** What of both sides both let into the tunnel. */
  readonly here: readonly string[];
  readonly there: readonly string[];
}

/** What comes of a pact with what the other gateway is told, before either has called. */
export function outlookOf(pact: Pact, here: readonly string[]): PactOutlook {
  const word = wordOf(pact, here);
  // Who is called decides by its own order: of others nobody knows theirs.
  return {
    ike: agreeOn('ike', pact.ike, word.ike),
    esp: agreeOn('esp', pact.esp, word.esp),
    names:
      misnamed('The other gateway names itself', word.own, pact.other) ??
      misnamed('Ours names itself', pact.own, word.other),
    here: narrowed(here, word.here),
    there: narrowed(pact.behind, word.there),
  };
}

const misnamed = (who: string, is: string, expected: string): string | null =>
  is.toLowerCase() === expected.toLowerCase() ? null : `${who} “${is}”, and is expected to be “${expected}”.`;

/**
 * Octets of the largest packet that goes into a tunnel whole: by any uplink, with the dearest of what it offers, inside UDP, since translation may be on the
 * way (RFC 3948).
 */
export function innerOfPact({ at, esp }: Pick<Pact, 'at' | 'esp'>, uplinks: readonly UplinkSetting[]): number {
  const mtu = uplinks.reduce((least, { mtu: own, way }) => Math.min(least, own ?? usualMtu(way)), 1500);
  const version = at && parseIp(at)?.version === 6 ? 6 : 4;
  const all = esp.ciphers.flatMap((cipher): Pick<Suite, 'cipher' | 'hash'>[] =>
    provesItself(cipher) ? [{ cipher, hash: null }] : esp.hashes.map((hash) => ({ cipher, hash })),
  );
  return Math.min(...all.map((suite) => innerOctets(suite, mtu, { version, udp: true })));
}
