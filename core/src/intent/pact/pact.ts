import type { SecretRef } from '../../base';
import type { Offer } from '../../ike';

/** What the people of the other gateway say that it is told; absent: as the file for it says. */
export interface PactWord {
  readonly ike: Offer;
  readonly esp: Offer;
  /** What it names itself, and us. */
  readonly own: string;
  readonly other: string;
  /** Prefixes that it has behind itself, and behind us. */
  readonly there: readonly string[];
  readonly here: readonly string[];
}

/** What a site’s gateway and one of others have agreed on, so that a tunnel stands between them (IKEv2, RFC 7296). */
export interface Pact {
  readonly id: string;
  readonly name: string;
  /** Address at which the other is found; absent: it is the one that calls. */
  readonly at?: string | null;
  /** What ours names itself, and the other. */
  readonly own: string;
  readonly other: string;
  /** What both know and nobody else does (RFC 7296 §2.15). */
  readonly key: SecretRef;
  /** What is offered for the exchange, and for packets. */
  readonly ike: Offer;
  readonly esp: Offer;
  /** Seconds after which keys of the exchange are made anew, and of packets; absent: as is usual. Each end has its own (RFC 7296 §2.8). */
  readonly lasts?: PactLasts | null;
  /** Ids of the segments that the other reaches. */
  readonly segments: readonly string[];
  /** What it reaches beside those, such as networks of joined sites. */
  readonly prefixes?: readonly string[] | null;
  /** Prefixes behind the other. */
  readonly behind: readonly string[];
  readonly says?: PactWord | null;
  /** What it is, in people’s words. */
  readonly purpose?: string | null;
}
export interface PactLasts {
  readonly ike: number;
  readonly esp: number;
}

/** Pacts of a site; characters of a name, and of what gateways name themselves; prefixes on one side; seconds that keys last. */
export const [MOST_PACTS, MOST_PACT_NAME, MOST_GATEWAY_NAME, MOST_PACT_PREFIXES] = [16, 40, 120, 32];
export const [LEAST_LASTS, MOST_LASTS] = [300, 86_400];
export const USUAL_LASTS: PactLasts = { ike: 14_400, esp: 3600 };
/** Characters of a key that both know. */
export const [LEAST_KEY, MOST_KEY] = [16, 120];

/** What is offered where nobody says otherwise: what RFC 8247 and RFC 8221 ask for, in the order that is best. */
export const USUAL_OFFERS: { readonly ike: Offer; readonly esp: Offer } = {
  ike: { ciphers: ['aes-gcm-256', 'aes-cbc-256'], hashes: ['sha2-256', 'sha2-384'], groups: ['31', '19', '20', '14'] },
  esp: { ciphers: ['aes-gcm-256', 'aes-cbc-256'], hashes: ['sha2-256'], groups: ['31', '19', '20', '14'] },
};
