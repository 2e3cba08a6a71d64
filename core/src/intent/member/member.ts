import type { SecretRef } from '../../base';
import type { OverlayRole } from '../../document';

/** The pair of keys by which a gateway proves to others who it is; the private one is kept as a secret, and shown to nobody. */
export interface MemberKey extends SecretRef {
  /** The public one (Curve25519), in base64. */
  readonly public: string;
}

/** A site that is joined to others by tunnels. */
export interface Member {
  readonly id: string;
  readonly siteId: string;
  /** The gateway at which its tunnels end. */
  readonly deviceId: string;
  readonly role: OverlayRole;
  /** Ids of a spoke’s hubs, the preferred first. Hubs are joined to each other by themselves. */
  readonly hubs: readonly string[];
  /** Ids of spokes that a spoke has a tunnel of its own to; said at either end. */
  readonly direct: readonly string[];
  /** Ids of the segments that others reach, or all that the gateway routes and that are not kept from other segments. */
  readonly segments: 'all' | readonly string[];
  /** Prefixes behind it that others reach too, such as those that it has a route to. */
  readonly prefixes: readonly string[];
  /** What of the others it speaks with; null: all. */
  readonly takes: readonly string[] | null;
  /** Whether all that leaves does so by its hub, or each by its own uplinks. */
  readonly leaves: 'here' | 'hub';
  /** At which address others find an uplink of its whose own they do not: by port, of the other of its pair by `DEVICE port`; see `foundKey`. */
  readonly found: Readonly<Record<string, string>>;
  readonly key: MemberKey;
}

/** What others know of a member beside what is said of it: it follows from its site, and is worked out anew with each edit. */
export interface Join {
  /** Name of its site. */
  readonly name: string;
  /** Prefixes that others reach there. */
  readonly carries: readonly string[];
  /** Addresses at which it is found. */
  readonly at: readonly string[];
  /** Octets of the largest packet that every uplink of it takes. */
  readonly mtu: number;
}
/** By the member’s id. */
export type Joins = Readonly<Record<string, Join>>;

/** Sites that are joined; hubs among them; hubs of a spoke; spokes it has tunnels of its own to; prefixes that are said. */
export const [MOST_MEMBERS, MOST_HUBS, MOST_SPOKE_HUBS, MOST_DIRECT, MOST_PREFIXES] = [1000, 16, 8, 100, 50];

/** What an uplink is called among those that others find: of the gateway at which tunnels end its port, of the other of its pair with that. */
export const foundKey = ({ deviceId }: Pick<Member, 'deviceId'>, gatewayId: string, port: string): string =>
  gatewayId === deviceId ? port : `${gatewayId} ${port}`;
