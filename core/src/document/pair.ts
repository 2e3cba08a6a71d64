/** Where both hear each other, and as which protocol (RFC 9568 §5.1.1.2, §5.1.1.4). */
export const [VRRP_GROUP, VRRP] = ['224.0.0.18', 112] as const;

/** Which of two gateways usually routes, and which stands by. */
export type PairRole = 'first' | 'second';

/** How a gateway takes turns with another in holding the segments’ addresses (VRRP, RFC 9568). */
export interface PairDocument {
  readonly role: PairRole;
  /** Name and serial number of the other one. */
  readonly with: string;
  readonly serial: string;
  /** Virtual Router ID (RFC 9568 §5.2.3), the same at both. */
  readonly router: number;
  /** The VLAN in which they hear each other. */
  readonly vlan: number;
  /** Its own address there, with the prefix length, and that of the other. */
  readonly own: string;
  readonly other: string;
  /** RFC 9568 §5.2.4, from 1 to 254: while the tracked uplinks are good, and while they are not. */
  readonly priority: number;
  readonly lowered: number;
  /** Hundredths of a second between advertisements (RFC 9568 §5.2.7). */
  readonly advert: number;
  /** Uplinks that are tracked; absent: none. */
  readonly tracks?: readonly string[];
  /** It is lowered when any of them fails; absent: once all have. */
  readonly any?: true;
  /** Leases it has given out are told to the other. */
  readonly leases?: true;
}
