import type { RuleEnd } from '../../rules';

/** As what some of those inside are seen outside (RFC 3022): otherwise than their uplink says of all. */
export interface Translation {
  readonly id: string;
  readonly deviceId: string;
  readonly name: string;
  /** The first that fits decides, from the lowest on. */
  readonly turn: number;
  /** The uplink that they leave by. */
  readonly port: string;
  readonly from: readonly RuleEnd[];
  readonly to: readonly RuleEnd[];
  /** As the uplink’s own address, as themselves, or as one of a pool of addresses. */
  readonly as: 'uplink' | 'itself' | 'pool';
  /** Addresses that the provider leads to this uplink, as a host, a prefix or a range. */
  readonly pool?: string | null;
  /** Kept, and not in force. */
  readonly off?: boolean | null;
}

/** Translations of one gateway, characters of a name, and addresses of a pool. */
export const [MOST_TRANSLATIONS, MOST_TRANSLATION_NAME, MOST_POOLED] = [50, 60, 1024];

/** The translations of a gateway, in the order in which they decide. */
export const translationsOf = (
  { translations = [] }: { readonly translations?: readonly Translation[] },
  deviceId: string,
): Translation[] => translations.filter((each) => each.deviceId === deviceId).sort((a, b) => a.turn - b.turn);
