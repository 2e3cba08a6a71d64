/** Seconds between two questions to what a route tracks; how many without an answer take it away, and how many answers bring it back. */
export const [ROUTE_ASKS_SECONDS, ROUTE_LOSSES, ROUTE_ANSWERS] = [2, 3, 3];

/** A route that a gateway is told, beside its links and uplinks. Where neither a neighbour nor an uplink is named, it drops what is for the prefix. */
export interface RouteDocument {
  readonly name: string;
  /** An IPv4 or IPv6 prefix. */
  readonly prefix: string;
  /** Address of a neighbour on a link, which hands packets on. */
  readonly to?: string;
  /** Port of an uplink; the route is there while that is good. */
  readonly by?: string;
  /** Of several to one prefix the lowest counts that is there; absent: 0. */
  readonly metric?: number;
  /** Address that is asked by this very way; while it does not answer, the route is not there. Absent: nobody is asked. */
  readonly tracks?: string;
}
