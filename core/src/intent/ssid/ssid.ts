import type { SecretRef } from '../../base';
import type { MulticastWay, RoamAid, SsidSecurity } from '../../document';
import type { Band } from '../../hardware';
import type { Caps } from '../../traffic';
import type { Purposed } from '../purpose';
import type { SharedReach } from '../reach';
import type { Isolation } from '../segment/segment';

export interface Ssid extends Purposed {
  readonly id: string;
  /** 1 to 32 bytes of UTF-8 on the air (IEEE 802.11-2020 §9.4.2.2). */
  readonly name: string;
  readonly security: SsidSecurity;
  /** Null: none was ever said. It is kept while nothing asks for it. */
  readonly passphrase: SecretRef | null;
  /** Keys of a ring are asked for instead of a passphrase: names of the segments that they may lead to. */
  readonly ring?: readonly string[] | null;
  /** Where the keys of its ring are: RADIUS servers name them, by MAC address; null: they are kept here. */
  readonly keysAt?: 'servers' | null;
  /** A passphrase that is right as well until the end of a day, such as `2026-12-31`, by each site's clock. */
  readonly former?: { readonly secret: string; readonly until: string } | null;
  readonly bands: readonly Band[];
  /** Switched off: all that is said of it is kept, and nothing sends it. In an edit, null switches it on; so it is with all below. */
  readonly off?: boolean | null;
  /** Its name is in no beacon (IEEE 802.11-2020 §11.1.4.3.2: who looks for it has to ask by name). */
  readonly hidden?: boolean | null;
  /** Signal in dBm, as APs hear it, that a client is taken in from; and below which it is sent away. */
  readonly join?: number | null;
  readonly stay?: number | null;
  /** Most clients of it on one radio. */
  readonly most?: number | null;
  /** Whether clients that hear a wider band well are not answered at 2.4 GHz. */
  readonly steer?: boolean | null;
  /** What helps clients to change from one AP to another. */
  readonly roam?: readonly RoamAid[] | null;
  /** How multicast and broadcast are kept down on the air; null: they are sent as they come. */
  readonly multicast?: MulticastWay | null;
  /** The APs that send it, by site; at a site that is not named all do that can. */
  readonly aps?: Readonly<Record<string, readonly string[]>> | null;
  /** The tag by which these were chosen, by site. An AP that gets it, or loses it, is found; nothing changes by itself. */
  readonly apTags?: Readonly<Record<string, string>> | null;
  /** Id of the hours that it is sent at; by each site's own clock. */
  readonly hours?: string | null;
  /** Id of the portal that holds its clients until they are let in as guests. */
  readonly portal?: string | null;
  /** What its clients may take at a site: each, and all together. */
  readonly caps?: Caps | null;
  /** Name of the segment, or else of the pool, that its clients join; each site looks it up among its own. */
  readonly segment: string;
  /** Where its clients' frames are carried to inside IP packets; null: they go over cables, in the segment's VLAN. */
  readonly tunnel?: TunnelEnd | null;
  readonly reach: SharedReach;
  /** What its clients are kept from, whatever their segment is. */
  readonly isolation?: Isolation | null;
  /** What is otherwise at single sites, by their id. */
  readonly exceptions?: Readonly<Record<string, SsidException>> | null;
  /** Whether clients of a class join its segment instead. In an edit, null takes it away. */
  readonly byClass?: boolean | null;
}

/** Where tunnels end: at the gateway of the AP's own site, or at that of another, by the site's id; there the segment is one of that site. */
export const OWN_GATEWAY = 'gateway';
export type TunnelEnd = string;

/** What a site may say of an SSID otherwise than the sites that share it. */
export const EXCEPTABLE = [
  'off',
  'segment',
  'tunnel',
  'passphrase',
  'bands',
  'hours',
  'caps',
  'join',
  'stay',
  'most',
  'hidden',
  'steer',
  'multicast',
] as const satisfies readonly (keyof Ssid)[];

/** What one site says otherwise; a field that is named counts there, null or not. */
export type SsidException = Partial<Pick<Ssid, (typeof EXCEPTABLE)[number]>>;

/** Limits of what may be said: signals in dBm, and clients on one radio. */
export const [JOIN_FROM, JOIN_TO, MOST_CLIENTS] = [-95, -50, 512] as const;
/** Most segments that the keys of a ring lead to. */
export const MOST_RING_SEGMENTS = 1000;
/** Most APs of a site that are chosen for an SSID. */
export const MOST_SENDERS = 500;
/** How far in dB a client may at least fall before it is sent away, or it comes and goes. */
export const STAY_BELOW = 3;
