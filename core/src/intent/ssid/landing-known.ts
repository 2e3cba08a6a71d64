/** A segment into which clients of other sites’ SSIDs are carried. */
export interface LandingSegment {
  readonly id: string;
  readonly name: string;
  readonly vlan: number;
  /** Whether it keeps its clients apart from each other. */
  readonly apart?: true;
}

/** A site from which they are carried there. */
export interface LandingFrom {
  readonly name: string;
  /** Where its APs live, and send from. */
  readonly subnet: string;
  /** Octets of the largest IP packet of a client that goes through in one piece. */
  readonly mtu: number;
  /** Names of the segments that its SSIDs lead to there, in lower case and ascending; some may not be there. */
  readonly wants: readonly string[];
}

/** What is known of a site into whose segments other sites carry clients: it follows from the sites, and is worked out anew with each edit. */
export interface Landing {
  readonly name: string;
  /** Where its gateway takes their frames out: its own address where devices live. */
  readonly to: string;
  /** Id of that segment. */
  readonly livesIn: string;
  /** Those that are wanted, and that its gateway routes, by name. */
  readonly segments: readonly LandingSegment[];
  /** By the site’s id. */
  readonly from: Readonly<Record<string, LandingFrom>>;
}
/** By the id of the site at which they come out. */
export type Landings = Readonly<Record<string, Landing>>;

/** Where an SSID of one site leads, at another. */
export interface Landed extends Pick<Landing, 'name' | 'to'>, Pick<LandingFrom, 'mtu'> {
  readonly siteId: string;
  /** Null: that site has no segment of the name that its gateway routes, so no AP sends the SSID. */
  readonly segment: LandingSegment | null;
}
