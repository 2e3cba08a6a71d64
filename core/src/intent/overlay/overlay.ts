/** What all tunnels between sites have in common. */
export interface OverlaySaid {
  /** Prefixes in which all sites’ networks are: what is for there goes into tunnels, or nowhere. */
  readonly spans: readonly string[];
}

/** Most prefixes of the estate. */
export const MOST_SPANS = 8;
