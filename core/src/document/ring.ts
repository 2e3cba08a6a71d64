/** Where a key of a ring may lead at a site. */
export interface RingSegment {
  readonly name: string;
  readonly vlan: number;
  /** Whether its clients are kept apart from each other. */
  readonly isolated?: true;
}

/** What an AP is told of a key ring with its document; the keys come beside it, since they change by themselves. */
export interface RingDocument {
  /** Ordered by name; where servers name the keys, with the SSID’s own. */
  readonly segments: readonly RingSegment[];
  /** RADIUS servers name its keys, by MAC address (RFC 2868 §3.5); absent: the keys are told beside the document. */
  readonly asked?: true;
}

/** A key of a ring as APs hold it. */
export interface RingKey {
  readonly id: string;
  /** A passphrase, or the pairwise master key itself in hex (IEEE 802.11-2020 Annex J.4.1). */
  readonly key: string;
  /** Name of the segment it leads to; absent: the SSID's own. */
  readonly segment?: string;
  /** Name of the class that it leads to instead, which says its segment. */
  readonly accessClass?: string;
  /** MAC addresses that it is bound to, lower case with colons; absent: any. */
  readonly macs?: readonly string[];
  /** As many devices have it as may: `macs` are those. */
  readonly full?: true;
  /** Most devices. */
  readonly most?: number;
  /** First and last moment, as `2026-12-31` or `2026-12-31 11:00`, by the site's clock; a day is whole. */
  readonly from?: string;
  readonly until?: string;
}

/** Why a key of a ring lets nobody in. */
export const KEY_REFUSALS = ['bound', 'devices', 'early', 'over', 'nowhere'] as const;
export type KeyRefusal = (typeof KEY_REFUSALS)[number];
