import type { SecretRef } from '../base';
import type { SsidSecurity } from '../document';
import type { Band, HardwareSheet } from '../hardware';
import type { NamedSet, Rule, RuleEnd, RuleService } from '../rules';
import type { PortDuty, PortEntry } from './port';
import type { Isolation, Segment } from './segment';

/** The intent of one site. Kept only where it differs from what the hardware sheets imply. */
export interface SitePart {
  readonly kind: 'site';
  readonly id: string;
  readonly name: string;
  /** Short form used in device names, lower case. */
  readonly code: string;
  /** ISO 3166-1 alpha-2. */
  readonly country: string;
  /** IANA name. */
  readonly timeZone: string;
  /** The segment that devices themselves live in. */
  readonly managementId: string;
  readonly segments: readonly Segment[];
  /** By device id, then port name. */
  readonly ports: Readonly<Record<string, Readonly<Record<string, PortEntry>>>>;
  /** Duties that ports of this site are given, by name. */
  readonly duties?: readonly PortDuty[];
  readonly pools?: readonly VlanPool[];
  /** The site's own rules, in their order. */
  readonly rules?: readonly Rule[];
  readonly sets?: readonly KeptSet[];
  readonly guarantees?: readonly KeptGuarantee[];
}

/** Addresses and ports under one name, used in rules. */
export interface KeptSet extends NamedSet {
  readonly id: string;
}

/** A sentence about traffic that has to hold for every packet; see `Guarantee` for the kinds. */
export interface KeptGuarantee {
  readonly id: string;
  readonly kind: 'never' | 'always' | 'only';
  readonly from: readonly RuleEnd[];
  readonly to: readonly RuleEnd[];
  readonly services: readonly RuleService[];
  /** Destinations that do not count. */
  readonly besides?: readonly RuleEnd[] | null;
  /** Of the estate's: sites with this tag alone; absent: every site. */
  readonly tag?: string | null;
}

/** Segments that share the clients of an SSID; a client stays in one by its MAC address. */
export interface VlanPool {
  readonly id: string;
  readonly name: string;
  /** VLAN IDs as a list, canonical: ascending, neighbours joined. */
  readonly vlans: string;
}

/** A segment said once for many sites; each has it in a subnet of its own. */
export interface Recipe {
  readonly id: string;
  readonly name: string;
  readonly vlan: number;
  readonly purpose: string;
  readonly domain: string;
  /** Bits of each site's subnet. */
  readonly length: number;
  /** Where subnets come from: each site's own block, or a prefix of the estate that is filled in order. */
  readonly parent: string | null;
  /** Null: nobody gives addresses. */
  readonly leaseSeconds: number | null;
}

/** Where something shared applies. */
export type Reach = { readonly kind: 'estate' } | { readonly kind: 'sites'; readonly siteIds: readonly string[] };

/** A client that a class is given to by its MAC address: that identifies it and proves nothing. */
export interface ClassMember {
  /** Lower case with colons. */
  readonly mac: string;
  /** What it is, in people's words; may be empty. */
  readonly name: string;
}

/** What clients that are known are given: a segment, and rules that name the class. */
export interface AccessClass {
  readonly id: string;
  readonly name: string;
  /** Name of the segment they join; each site looks it up among its own. */
  readonly segment: string;
  readonly members: readonly ClassMember[];
  readonly reach: Reach;
}

export interface Ssid {
  readonly id: string;
  /** 1 to 32 bytes of UTF-8 on the air (IEEE 802.11-2020 §9.4.2.2). */
  readonly name: string;
  readonly security: SsidSecurity;
  readonly passphrase: SecretRef;
  readonly bands: readonly Band[];
  /** Name of the segment, or else of the pool, that its clients join; each site looks it up among its own. */
  readonly segment: string;
  readonly reach: Reach;
  /** What its clients are kept from, whatever their segment is. */
  readonly isolation?: Isolation | null;
  /** Whether clients of a class join its segment instead. In an edit, null takes it away. */
  readonly byClass?: boolean | null;
}

/** The intent that sites share. */
export interface EstatePart {
  readonly kind: 'estate';
  readonly id: string;
  readonly name: string;
  readonly ssids: readonly Ssid[];
  readonly recipes?: readonly Recipe[];
  readonly classes?: readonly AccessClass[];
  /** Rules of every site that come before its own. */
  readonly rulesBefore?: readonly Rule[];
  /** Rules of every site that come after its own. */
  readonly rulesAfter?: readonly Rule[];
  readonly sets?: readonly KeptSet[];
  readonly guarantees?: readonly KeptGuarantee[];
  /** Where this controller answers: addresses, prefixes or ranges. */
  readonly controller?: readonly string[];
}

export type Part = EstatePart | SitePart;

/** The whole intent: immutable; edits make a new one that shares what they leave alone. */
export interface Intent {
  readonly estate: EstatePart;
  readonly sites: ReadonlyMap<string, SitePart>;
}

/** A device that is ours, as far as compiling needs to know it. */
export interface RosterDevice {
  readonly id: string;
  readonly siteId: string;
  readonly name: string;
  readonly serial: string;
  readonly model: string;
  /** Supplied for a model we ship no sheet of. */
  readonly sheet?: HardwareSheet;
  /** Its own address in the management segment; absent: given to it (DHCP). */
  readonly address?: StaticAddress;
  /** Whether its status light is to stay off. */
  readonly lightOff?: true;
}

/** A management address that a person gave a device. Canonical text. */
export interface StaticAddress {
  readonly address: string;
  /** Bits of the network. */
  readonly length: number;
  readonly gateway: string;
  readonly dns: readonly string[];
}

/** A cable between two of our devices, as their neighbour reports tell it. */
export interface Link {
  readonly a: LinkEnd;
  readonly b: LinkEnd;
  /** Which end alone reports it; absent: both do. */
  readonly only?: 'a' | 'b';
}
export interface LinkEnd {
  readonly deviceId: string;
  readonly port: string;
}
