import type { AccessClass } from './class/class';
import type { SharedRoute } from './shared-route/shared-route';
import type { Course } from './course/course';
import type { PortDuty } from './duty/duty';
import type { KeptGuarantee } from './guarantee/guarantee';
import type { Hours } from './hours/hours';
import type { Joins, Member } from './member/member';
import type { MeshEntries, MeshSite } from './mesh/mesh';
import type { Pair } from './pair/pair';
import type { VlanPool } from './pool/pool';
import type { OverlaySaid } from './overlay/overlay';
import type { PortEntry } from './port/port';
import type { Portal } from './portal/portal';
import type { Publication } from './publication/publication';
import type { StaticRoute } from './route/route';
import type { Pact } from './pact/pact';
import type { SiteRouter } from './router/router';
import type { SiteBands, SiteRadios } from './radio/radio';
import type { RadiusServer } from './radius/radius';
import type { Recipe } from './recipe/recipe';
import type { Rule } from '../rules';
import type { Segment } from './segment/segment';
import type { KeptSet } from './set/set';
import type { Landings } from './ssid/landing-known';
import type { Ssid } from './ssid/ssid';
import type { Translation } from './translation/translation';
import type { SiteLeaving, SiteUplinks } from './uplink/uplink';

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
  /** What is said of each band, for all radios of the site. */
  readonly bands?: SiteBands;
  /** What is said of single radios, by device id and band. */
  readonly radios?: SiteRadios;
  /** How APs of the site hang on each other by radio. */
  readonly mesh?: MeshSite;
  /** What is said of single APs for that, by device id; nothing while the site says nothing. */
  readonly meshAps?: MeshEntries;
  /** What is said of gateways’ ports to providers, and of how a gateway uses them together. */
  readonly uplinks?: SiteUplinks;
  readonly leaving?: SiteLeaving;
  /** What leaves otherwise than the rest, of all gateways. */
  readonly courses?: readonly Course[];
  /** As what some are seen outside, of all gateways. */
  readonly translations?: readonly Translation[];
  /** What people outside reach, of all gateways. */
  readonly publications?: readonly Publication[];
  /** Ways that are said by hand, of all gateways. */
  readonly routes?: readonly StaticRoute[];
  /** What routes segments in place of the gateway: switches of ours, and boxes of others. */
  readonly routers?: readonly SiteRouter[];
  /** Tunnels to gateways of others. */
  readonly pacts?: readonly Pact[];
  /** Two of its gateways, one of which takes over from the other. */
  readonly pair?: Pair;
  /** The site's own rules, in their order. */
  readonly rules?: readonly Rule[];
  readonly sets?: readonly KeptSet[];
  readonly guarantees?: readonly KeptGuarantee[];
}

/** The intent that sites share. */
export interface EstatePart {
  readonly kind: 'estate';
  readonly id: string;
  readonly name: string;
  readonly ssids: readonly Ssid[];
  readonly recipes?: readonly Recipe[];
  readonly classes?: readonly AccessClass[];
  /** Ways that the gateways of many sites go by, by name. */
  readonly routes?: readonly SharedRoute[];
  /** RADIUS servers, in the order they are asked. */
  readonly radius?: readonly RadiusServer[];
  /** Hours that things apply at, by name. */
  readonly hours?: readonly Hours[];
  /** Where guests are held until they are let in. */
  readonly portals?: readonly Portal[];
  /** Rules of every site that come before its own. */
  readonly rulesBefore?: readonly Rule[];
  /** Rules of every site that come after its own. */
  readonly rulesAfter?: readonly Rule[];
  readonly sets?: readonly KeptSet[];
  readonly guarantees?: readonly KeptGuarantee[];
  /** Where this controller answers: addresses, prefixes or ranges. */
  readonly controller?: readonly string[];
  /** What tunnels between sites have in common; absent: there are none. */
  readonly overlay?: OverlaySaid;
  /** Sites that are joined to each other. */
  readonly members?: readonly Member[];
  /** What they know of each other: it follows from the sites, is kept beside what is said so that each site's devices follow from what they were told by, and is said by nobody. */
  readonly joins?: Joins;
  /** What sites know of those into whose segments their SSIDs carry clients; like `joins` it follows, and nobody says it. */
  readonly landings?: Landings;
}

export type Part = EstatePart | SitePart;

/** The whole intent: immutable; edits make a new one that shares what they leave alone. */
export interface Intent {
  readonly estate: EstatePart;
  readonly sites: ReadonlyMap<string, SitePart>;
}
