import type { SecretRef } from '../../base';
import { USUAL_BACK } from '../../document';
import type { Watch } from '../../paths';

/** How an uplink comes to its address. `cellular` and `satellite` are given one as by DHCP; what else is usual there differs. */
export const UPLINK_WAYS = ['dhcp', 'static', 'pppoe', 'cellular', 'satellite'] as const;
export type UplinkWay = (typeof UPLINK_WAYS)[number];

/** How it comes to addresses of IPv6: not at all, by what the provider’s router says (RFC 4862), a prefix for the inside (RFC 8415), or as said here. */
export const SIX_WAYS = ['none', 'slaac', 'prefix', 'static'] as const;
export type SixWay = (typeof SIX_WAYS)[number];

/** An address of the uplink’s own with the length of its subnet, and who takes packets on. */
export interface FixedUplink {
  /** Such as 203.0.113.11/29. */
  readonly address: string;
  readonly gateway: string;
}

/** What is said of one uplink. */
export interface UplinkFields {
  /** Whether the port is an uplink at all. */
  readonly on: boolean;
  /** What people call it; null: by its port. */
  readonly title: string | null;
  readonly way: UplinkWay;
  readonly fixed: FixedUplink | null;
  /** Of PPPoE (RFC 2516): whom the provider knows. */
  readonly login: { readonly user: string; readonly password: SecretRef } | null;
  /** Name of a mobile network’s access point. */
  readonly apn: string | null;
  readonly six: SixWay;
  readonly fixed6: FixedUplink | null;
  /** VLAN ID that its frames are tagged with; null: none. */
  readonly vlan: number | null;
  /** Octets of a packet at most; null: as usual on its way, see `mtuOf`. */
  readonly mtu: number | null;
  /** Whether TCP is told of packets that fit (maximum segment size, RFC 9293 §3.7.1). */
  readonly clamp: boolean;
  /** MAC address to show instead of its own. */
  readonly mac: string | null;
  /** Name servers; none: those that the provider names. */
  readonly dns: readonly string[];
  /** What it can do, in Mb/s; null: not known. */
  readonly down: number | null;
  readonly up: number | null;
  /** Percent of what it can do that it is kept to, so that what waits does so here and not at the provider; null: it is not. */
  readonly below: number | null;
  /** Gigabytes a month that are paid for; null: as much as one likes. */
  readonly allowance: number | null;
  /** Day of the month on which it begins anew, from 1 to 28. */
  readonly anew: number;
  /** What a gigabyte costs beyond it, in whatever one pays with; null: nothing. */
  readonly price: number | null;
  /** Whether addresses from inside are translated on the way out (RFC 3022). */
  readonly translate: boolean;
  /** Whether it always takes its share, or stands by until others fail. */
  readonly role: 'shares' | 'standby';
  /** Its share, beside those of the others; as a standby, once it is used. */
  readonly weight: number;
  /** Among those that stand by, the lowest is used first. */
  readonly turn: number;
  /** As a standby, ports of those that it stands by for; none: for all that share. */
  readonly instead: readonly string[];
  readonly watch: Watch | null;
}

/** What is kept of it: what differs from the usual. */
export type UplinkEntry = Partial<UplinkFields>;

/** How a gateway uses its uplinks together. */
export interface LeavingFields {
  /** By the weights that are said, or by what each can do. */
  readonly by: 'weight' | 'capacity';
  /** Whether what began on an uplink stays there as long as it is good, also when others are better. */
  readonly stay: boolean;
  /** A standby begins when any of those that share fails, or when all have. */
  readonly begins: 'any' | 'all';
  /** Seconds after which an uplink that is good again is used again; or only when somebody says so, or never until it is told something new. */
  readonly back: number | 'hand' | 'never';
  /** What each segment gets of an uplink that is kept below what it can do, while all are busy: its weight, by its id; absent: 1. */
  readonly parts: Readonly<Record<string, number>>;
}
export type LeavingEntry = Partial<LeavingFields>;

/** By device id, then port. */
export type SiteUplinks = Readonly<Record<string, Readonly<Record<string, UplinkEntry>>>>;
/** By device id. */
export type SiteLeaving = Readonly<Record<string, LeavingEntry>>;

export const USUAL_LEAVING: LeavingFields = { by: 'weight', stay: true, begins: 'all', back: USUAL_BACK, parts: {} };

export const MOST_TARGETS = 4;
export const MOST_NAME_SERVERS = 3;
export const MOST_TITLE = 40;
/** Uplinks that one stands by for. */
export const MOST_INSTEAD = 16;
/** Percent of what an uplink can do that it may be kept to; what is usual; the largest weight of a segment. */
export const [LEAST_BELOW, MOST_BELOW, USUAL_BELOW, MOST_PART] = [50, 99, 95, 100];
/** Largest weight. */
export const MOST_WEIGHT = 1000;
