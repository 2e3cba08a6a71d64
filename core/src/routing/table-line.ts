import { formatPrefix } from '../address';
import type { Route } from './route-table';

/** What a gateway’s table is made of: its links, ways that are said, and uplinks. */
export interface TableSource {
  /** Its addresses on links, with their lengths, such as `10.20.1.1/24`. */
  readonly links: readonly { readonly name: string; readonly address: string }[];
  readonly said: readonly {
    readonly name: string;
    readonly prefix: string;
    readonly to?: string;
    readonly by?: string;
    readonly metric?: number;
  }[];
  readonly uplinks: readonly {
    readonly port: string;
    /** What it is called; absent: as its port. */
    readonly name?: string;
    /** When its turn is: 0 together with others, from 1 on as one that stands by. */
    readonly turn: number;
    /** Whether IPv6 leaves by it too. */
    readonly six?: boolean;
  }[];
  /** What its tunnels to other sites make; see `overlayLines`. */
  readonly overlay?: readonly {
    readonly name: string;
    readonly prefix: string;
    /** The other end of the tunnel; null: it is dropped. */
    readonly peer: string | null;
    /** The site that the other end has to have a tunnel to. */
    readonly asks?: string;
    readonly metric: number;
  }[];
  /** What its tunnels to gateways of others make; see `pactLines`. */
  readonly pacts?: readonly { readonly prefix: string; readonly name: string; readonly drops: boolean }[];
  /** Whether a tunnel to a gateway of others is up, by its name; absent: all are. */
  readonly stands?: (name: string) => boolean;
  /** Whether a tunnel is up, by its other end and the site that this has to have a tunnel to; absent: all are. */
  readonly isUp?: (peer: string, asks?: string) => boolean;
  /** Whether an uplink is good; absent: all are. */
  readonly isGood?: (port: string) => boolean;
  /** Whether what a route that is said tracks answers, by the route’s name; absent: all do. */
  readonly isHeard?: (name: string) => boolean;
}

/** Why a line is there. */
export type LineKind = 'link' | 'said' | 'overlay' | 'pact' | 'uplink';
/** What is preferred among lines to one prefix (RFC 8349 §5.2: lower wins): what is on a link, then what is said, then tunnels, then what is left. */
export const PREFERENCE: Readonly<Record<LineKind, number>> = {
  ...{ link: 0, said: 10, overlay: 50, pact: 50 },
  uplink: 200,
};

/** One line of the table that a gateway goes by. */
export interface TableLine extends Route {
  readonly kind: LineKind;
  /** The segment, what the route is called, or the uplink. */
  readonly name: string;
  /** The neighbour that it leads to. */
  readonly to?: string;
  /** The uplink that it leads to. */
  readonly by?: string;
  /** The other end of the tunnel that it leads into. */
  readonly peer?: string;
  /** Whether it counts: it is there, and no other to the same prefix comes first. */
  readonly counts: boolean;
  /** Lines that would take what it takes were it not there: those to the same prefix that it comes before, then the next shorter one. */
  readonly beats: readonly string[];
  /** Why it does not count. */
  readonly beaten?: string;
}

/** Lines to one prefix in words: `Crew, 10.20.1.0/24`. */
export const wordsOf = (lines: readonly Pick<TableLine, 'name' | 'prefix'>[]): string =>
  `${lines.map(({ name }) => name).join(' and ')}, ${formatPrefix(lines[0]!.prefix)}`;
