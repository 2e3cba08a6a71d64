import type { VrrpState } from './vrrp';

/** How an uplink fares: no cable is in it; it has no address; nothing answers; it is good; or good again, and not used again yet. */
export const PATH_STATES = ['unplugged', 'none', 'gone', 'good', 'waits'] as const;
export type PathState = (typeof PATH_STATES)[number];

/** IPv6 of an uplink as its provider gave it. */
export interface SixReport {
  /** Its own address; null: it has none. */
  readonly address: string | null;
  /** What was delegated for the inside (RFC 8415 §6.3). */
  readonly prefix?: string;
  readonly gateway?: string;
  /** In milliseconds since 1970. */
  readonly since: number;
  /** Why it has no address. */
  readonly why?: string;
}

/** An uplink of a gateway as it fares. */
export interface PathReport {
  readonly port: string;
  readonly state: PathState;
  /** In milliseconds since 1970. */
  readonly since: number;
  /** Whether sessions begin on it now. */
  readonly used: boolean;
  /** It is there for when others fail. */
  readonly standby?: true;
  /** Why it has no address. */
  readonly why?: string;
  /** What the provider gave, and since when. */
  readonly gateway?: string;
  readonly dns?: readonly string[];
  readonly given?: number;
  /** Absent: it asks for none. */
  readonly six?: SixReport;
  /** How often it came back and went again, one soon after the other. */
  readonly flaps?: number;
  /** Of the latest rounds of questions: share without an answer; milliseconds until one came, and by how many that varies (RFC 3550 §6.4.1). */
  readonly loss?: number;
  readonly delay?: number;
  readonly jitter?: number;
  /** Its weight among those that are used. */
  readonly weight?: number;
  /** Sessions that began on it since they are counted. */
  readonly sessions: number;
  /** Octets that passed since the gateway began to count: they grow, or begin anew at 0. */
  readonly octets?: { readonly down: number; readonly up: number };
}
/** What becomes of uplinks, of tunnels to other sites and to gateways of others, and of routes that are tracked. */
export const PATH_HAPPENINGS = [
  ...(['gone', 'back', 'used', 'by-hand', 'steered', 'started'] as const),
  ...(['tunnel-down', 'tunnel-up', 'route-gone', 'route-back', 'pact-down', 'pact-up'] as const),
  /** One of a pair began to route, or left that to the other. */
  ...(['took-over', 'stands-by'] as const),
] as const;
export type PathHappening = (typeof PATH_HAPPENINGS)[number];
/** What became of uplinks at a moment, and which were used from then on. */
export interface PathChange {
  /** In milliseconds since 1970, by the device’s clock. */
  readonly at: number;
  /** Empty where it is of none. */
  readonly port: string;
  /** `started`: the gateway was without power, and begins anew. */
  readonly what: PathHappening;
  /** Of `steered`: the name of the course that leaves by others now. */
  readonly course?: string;
  /** Of tunnels, the sites at their other ends, or what they are called; of routes, what they are called: some by name, more counted. */
  readonly of?: string;
  readonly why: string;
  readonly uses: readonly string[];
}
/** How a tunnel to another site fares. */
export interface PeerReport {
  /** The site at its other end. */
  readonly peer: string;
  readonly up: boolean;
  /** In milliseconds since 1970. */
  readonly since: number;
  /** While it is up: the uplink that it goes by, and the address of the other end. */
  readonly by?: string;
  readonly to?: string;
  /** Of the latest questions to the other end: share without an answer, and milliseconds until one came. */
  readonly loss?: number;
  readonly delay?: number;
  /** Why it is down. */
  readonly why?: string;
}
/** How far two gateways come with each other, in order: they find each other, agree on an exchange, prove who they are, agree on packets, and on what goes in (RFC 7296 §1.2). */
export const PACT_STEPS = ['finds', 'offers', 'proves', 'packets', 'whose', 'stands'] as const;
export type PactStep = (typeof PACT_STEPS)[number];
/** How a tunnel to a gateway of others fares. */
export interface PactReport {
  readonly name: string;
  readonly up: boolean;
  /** In milliseconds since 1970. */
  readonly since: number;
  /** How far it came. */
  readonly step: PactStep;
  /** Why it came no further. */
  readonly why?: string;
  /** What both use, and what goes in on either side. */
  readonly agreed?: {
    readonly ike: string;
    readonly esp: string;
    readonly here: readonly string[];
    readonly there: readonly string[];
  };
  /** The uplink that it goes by, and the address of the other; whether an address is translated on the way. */
  readonly by?: string;
  readonly to?: string;
  readonly translated?: true;
  /** Of the latest questions to the other: share without an answer, and milliseconds until one came. */
  readonly loss?: number;
  readonly delay?: number;
}
/** How one of a pair of gateways fares. */
export interface PairReport {
  /** What it is to the addresses that both share (RFC 9568 §6.4). */
  readonly state: VrrpState;
  /** In milliseconds since 1970. */
  readonly since: number;
  readonly priority: number;
  /** Whether it heard the other lately. */
  readonly hears: boolean;
}
/** How a route fares that is tracked. */
export interface RouteReport {
  readonly name: string;
  /** Whether what it tracks answers, so that it is there. */
  readonly up: boolean;
  /** In milliseconds since 1970. */
  readonly since: number;
}
/** How a course leaves. */
export interface CourseReport {
  readonly id: string;
  /** Ports; none: nothing gets out. */
  readonly uses: readonly string[];
  /** Whether an uplink of its own meets what it needs. */
  readonly meets: boolean;
  /** Whether it leaves as the rest does. */
  readonly usual: boolean;
  /** Sessions that began since these uplinks are used. */
  readonly sessions: readonly { readonly port: string; readonly sessions: number }[];
  /** Its share of the octets that left since there is this course, from 0 to 1; absent: none left yet. */
  readonly part?: number;
}
