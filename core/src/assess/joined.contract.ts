import type { PeerReport } from '../paths';

/** A site as far as joining it to others asks. */
export interface JoinableSite {
  readonly id: string;
  readonly name: string;
  /** Degrees; null: nobody said where it is. */
  readonly coordinates: { readonly latitude: number; readonly longitude: number } | null;
  /** Its gateways, by name: the first routes its segments. */
  readonly gateways: readonly { readonly id: string; readonly name: string }[];
}

/** Sites that can be joined, and how tunnels fare. */
export interface JoinedView {
  readonly sites: readonly JoinableSite[];
  /** What gateways told of their tunnels last, by their ids. */
  readonly live: Readonly<Record<string, { readonly at: string; readonly tunnels: readonly PeerReport[] }>>;
}

/** What can be shared of one site as a draft has it, and where its gateway is found. */
export interface JoinedSiteView {
  readonly segments: readonly {
    readonly id: string;
    readonly name: string;
    readonly subnet: string;
    /** It is kept from all other segments. */
    readonly apart: boolean;
  }[];
  /** Ids of two gateways that take turns; none: there is no pair. */
  readonly pair: readonly string[];
  readonly uplinks: readonly {
    readonly deviceId: string;
    /** Name of the gateway. */
    readonly gateway: string;
    readonly port: string;
    readonly title: string | null;
    /** The address it has now; null: none. */
    readonly address: string | null;
    /** A public one that it has for good, so that others find it there. */
    readonly fixed: string | null;
  }[];
}

/** A pair of keys that the controller made: the private one is kept as a secret, and shown to nobody. */
export interface TunnelKeyView {
  readonly secret: string;
  readonly public: string;
}
/** Pairs that are made at once. */
export const MOST_KEYS_AT_ONCE = 100;
