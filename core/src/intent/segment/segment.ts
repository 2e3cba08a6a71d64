import type { Caps } from '../../traffic';

/** Addresses from `first` to `last`, both included. Canonical text. */
export interface AddressSpan {
  readonly first: string;
  readonly last: string;
}

/** An address that a client is always given. */
export interface Reservation {
  /** Lower case with colons. */
  readonly mac: string;
  readonly address: string;
  /** What it is for; may be empty. */
  readonly name: string;
}

/** A DHCP option by number, beside those that follow from the segment (RFC 2132). */
export interface ServiceOption {
  /** 1 to 254. */
  readonly code: number;
  /** As typed: addresses, `0x` and hex digits, or text. */
  readonly value: string;
}

/**
 * Where a segment's addresses are given. `gateway`: by the gateway that routes it. `switch`: by a switch, at an
 * address of its own there. `relay`: by an outside server, asked by the gateway (RFC 1542 §4). `ap`: by APs that
 * translate for their clients (RFC 3022): each AP its own (`each`), one AP for all (`one`), or several roots, each
 * for the APs that hang nearer to it than to another (`tree`).
 */
export type ServedFrom =
  | { readonly kind: 'gateway' }
  | { readonly kind: 'switch'; readonly deviceId: string; readonly address: string }
  | { readonly kind: 'relay'; readonly server: string }
  | { readonly kind: 'ap'; readonly how: 'each' | 'one' | 'tree'; readonly deviceIds: readonly string[] };

/** What a segment's clients are given. Fields that are absent are derived from the segment. */
export interface AddressService extends AddressSpan {
  readonly leaseSeconds: number;
  /** Switched off: all of it is kept, and nobody gives addresses. */
  readonly off?: boolean;
  /** Further ranges. */
  readonly also?: readonly AddressSpan[];
  /** Spans of the ranges that are never given. */
  readonly exclude?: readonly AddressSpan[];
  readonly reservations?: readonly Reservation[];
  /** Name servers; absent: the gateway itself. */
  readonly dns?: readonly string[];
  /** Default route told; absent: the gateway; `none`: no route at all. */
  readonly route?: string;
  /** Time servers. */
  readonly ntp?: readonly string[];
  readonly options?: readonly ServiceOption[];
  /** Absent: the gateway. */
  readonly from?: ServedFrom;
}

/**
 * IPv6 of a segment. `slaac`: router advertisements alone (RFC 4862); `stateless`: these and name servers by DHCPv6
 * (RFC 8415 §6.1); `stateful`: addresses by DHCPv6, from `first` to `last`.
 */
export interface Segment6 {
  readonly prefix: string;
  readonly gateway: string;
  readonly mode: 'slaac' | 'stateless' | 'stateful';
  readonly first?: string;
  readonly last?: string;
}

/** What the clients of a segment are kept apart from. */
export interface Isolation {
  /** The site's other segments. */
  readonly segments?: boolean;
  /** Each other. */
  readonly clients?: boolean;
  /** What the gateway itself offers, but for addresses and names. */
  readonly gateway?: boolean;
}

/** One VLAN of a site with its subnet, gateway address and address service. Addresses are canonical text. */
export interface Segment {
  readonly id: string;
  readonly name: string;
  readonly vlan: number;
  readonly subnet: string;
  readonly gateway: string;
  /** Null when nobody gives addresses here. */
  readonly addresses: AddressService | null;
  /** Switched off: all that is said of it is kept, and no device carries it. In an edit, null switches it on; the same for those below. */
  readonly off?: boolean | null;
  /** Domain name its clients are told. In an edit, null takes it away. */
  readonly domain?: string | null;
  /** What it is for, in people's words. */
  readonly purpose?: string | null;
  readonly v6?: Segment6 | null;
  readonly isolation?: Isolation | null;
  /** What its clients may take, those on cables included: each, and all together. */
  readonly caps?: Caps | null;
  /**
   * Who routes it: the id of a router beside the gateway, or `nowhere`, which carries it and lets nothing in or out. Absent: the gateway, or the APs that give
   * its addresses.
   */
  readonly routed?: string | null;
  /** The recipe it was stamped from. */
  readonly recipeId?: string | null;
}

/** The ranges a service gives from, first to last as they were said. */
export const spansOf = (service: AddressService): AddressSpan[] => [
  { first: service.first, last: service.last },
  ...(service.also ?? []),
];

/** Where a service's addresses are given. */
export const servedFrom = (service: AddressService): ServedFrom => service.from ?? { kind: 'gateway' };

/** Whether APs route a segment, translating for their clients. */
export const isRoutedByAps = ({ addresses }: Pick<Segment, 'addresses'>): boolean =>
  addresses !== null && servedFrom(addresses).kind === 'ap';

/** Whether the gateway has an address in a segment: neither APs nor another router route it, and somebody does. */
export const isRoutedByGateway = (segment: Pick<Segment, 'addresses' | 'routed'>): boolean =>
  !segment.routed && !isRoutedByAps(segment);
