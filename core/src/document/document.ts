import type { SecretRef } from '../base';
import type { CourseDocument } from './course';
import type { OverlayDocument } from './overlay';
import type { PactDocument } from './pact';
import type { PairDocument } from './pair';
import type { RouteDocument } from './route';
import type { PublishedDocument } from './published';
import type { TranslationDocument } from './translation';
import type { LeavingDocument, UplinkDocument } from './uplink';
import type { Band } from '../hardware';
import type { AskingDocument } from './asking';
import type { HoursDocument } from './hours';
import type { PortalDocument } from './portal';
import type { RadiusDocument } from './radius';
import type { RingDocument } from './ring';
import type { ApTunnelDocument, GatewayTunnelDocument } from './tunnel';
import { dayOf, isInForce, minuteOfWeek, type PolicyDocument } from '../rules';

/**
 * What clients of an SSID are asked for: nothing, and nothing is encrypted; nothing, and all is (OWE, RFC 8110); a passphrase by PSK alone,
 * SAE alone, or either (transition mode); who they are (IEEE 802.1X-2020), by keys of WPA2 alone, WPA3 alone, or either, or of 192 bits.
 */
export const SECURITIES = [
  ...(['open', 'owe', 'wpa2-psk', 'wpa2-wpa3-psk', 'wpa3-sae'] as const),
  ...(['wpa2-enterprise', 'wpa2-wpa3-enterprise', 'wpa3-enterprise', 'wpa3-enterprise-192'] as const),
] as const;
export type SsidSecurity = (typeof SECURITIES)[number];

/** Those that ask who a client is. */
export type EnterpriseSecurity = Extract<SsidSecurity, `${string}-enterprise${string}`>;

/** Whether clients have to say, and prove, who they are. */
export const asksWho = (security: SsidSecurity): security is EnterpriseSecurity => security.includes('-enterprise');

/** Whether clients have to know a passphrase. */
export const asksPassphrase = (security: SsidSecurity): boolean =>
  security !== 'open' && security !== 'owe' && !asksWho(security);

/** What helps clients to change from one AP to another: lists of neighbours, asking them to go, keys that are there already (802.11k, v, r). */
export const ROAM_AIDS = ['k', 'v', 'r'] as const;
export type RoamAid = (typeof ROAM_AIDS)[number];

/**
 * How multicast and broadcast are kept down on the air. `each`: every client is sent its own copy (as with IEEE 802.11-2020 §11.21.16, by
 * the AP itself). `none`: none of it is sent, and the AP answers for its clients who has which address (proxy ARP, §11.21.14).
 */
export const MULTICAST_WAYS = ['each', 'none'] as const;
export type MulticastWay = (typeof MULTICAST_WAYS)[number];

/**
 * What a port does; `null` untagged means that untagged frames are dropped, but for clients of a class at a port that asks
 * who they are: theirs are in the VLAN of their class. The fields below `tagged` are only there
 * where they differ from the usual: power on, low priority, speed as agreed, no authentication, no isolation, no limit.
 */
export interface PortDocument extends AskingDocument {
  readonly name: string;
  readonly untagged: number | null;
  /** VLAN IDs, ascending. */
  readonly tagged: readonly number[];
  readonly poe?: 'off';
  readonly priority?: 'high' | 'critical';
  /** Megabits a second. */
  readonly speed?: number;
  readonly isolated?: true;
  /** Percent of the speed that broadcast and unknown traffic may take. */
  readonly storm?: number;
  /** When it is in use; absent: always. At other times nothing passes, and it gives no power. */
  readonly hours?: HoursDocument;
  /** Ports of one device with the same number act as one (IEEE 802.1AX-2020). */
  readonly group?: number;
  /** Holds those whom nobody knows until they are let in as guests: everybody, or at a port that asks whoever got no class. */
  readonly portal?: PortalDocument;
}

/** A device's own fixed address. */
export interface ManagementAddress {
  readonly address: string;
  /** Bits of the network. */
  readonly length: number;
  readonly gateway: string;
  readonly dns: readonly string[];
}

/** Clients that are told from others by their MAC addresses, and the VLAN they join. */
export interface ClassDocument {
  readonly id: string;
  readonly name: string;
  /** Null: they are not let in. */
  readonly vlan: number | null;
  /** MAC addresses, lower case with colons, ascending. */
  readonly members: readonly string[];
  /** Whom nothing gives another class has this one, wherever classes count. */
  readonly otherwise?: true;
  /** Whether they are kept apart from each other, and from others that are. */
  readonly isolated?: true;
  /** What each of them may take: of an AP instead of what its SSID gives each, and of a port. */
  readonly client?: CapDocument;
  /** Seconds: until one is sent away, until one of whom nothing is heard is gone, until servers are asked anew. */
  readonly session?: number;
  readonly idle?: number;
  readonly again?: number;
}

interface CommonDocument {
  readonly format: 'iron-lattice.document/1';
  readonly device: { readonly name: string; readonly serial: string; readonly model: string };
  readonly site: { readonly name: string; readonly country: string; readonly timeZone: string };
  /** VLAN the device itself lives in, and its address there; absent: it asks for one (DHCP). */
  readonly management: { readonly vlan: number; readonly address?: ManagementAddress };
  /** Only said when the status light is to stay off. */
  readonly light?: 'off';
  readonly ports: readonly PortDocument[];
  /** Only where an SSID or a port of it asks who a client is. */
  readonly classes?: readonly ClassDocument[];
  /** Only where it asks servers who a client is. */
  readonly radius?: RadiusDocument;
  /** DHCP services it runs. */
  readonly addressServices?: readonly AddressServiceDocument[];
}

/** A router's own address in a VLAN, with the prefix length. */
export interface GatewayInterface {
  readonly vlan: number;
  readonly name: string;
  readonly address: string;
  /** Where it answers as well while devices with fixed addresses of a former subnet are told of the new one. */
  readonly former?: readonly string[];
}

/** Addresses from `first` to `last`. */
export interface SpanDocument {
  readonly first: string;
  readonly last: string;
}

/** One DHCP service (RFC 2131). Lists are only there when they hold something. */
export interface AddressServiceDocument extends SpanDocument {
  readonly vlan: number;
  readonly subnet: string;
  /** The server's own address in the segment, when that is not the gateway's. */
  readonly own?: string;
  /** Further ranges. */
  readonly also?: readonly SpanDocument[];
  readonly exclude?: readonly SpanDocument[];
  readonly reservations?: readonly { readonly mac: string; readonly address: string; readonly name: string }[];
  /** Default route told; null: none. */
  readonly gateway: string | null;
  readonly dns: readonly string[];
  readonly domain?: string;
  readonly ntp?: readonly string[];
  /** Further options: number, and value in hex digits. */
  readonly options?: readonly { readonly code: number; readonly hex: string }[];
  readonly leaseSeconds: number;
}

/** Passes DHCP requests of a VLAN on to a server elsewhere (RFC 1542 §4). */
export interface RelayDocument {
  readonly vlan: number;
  readonly server: string;
}

/** IPv6 of a VLAN: what the router advertises (RFC 4861 §6.2), and the DHCPv6 it answers. */
export interface Interface6Document {
  readonly vlan: number;
  readonly address: string;
  /** RFC 4861 §4.2: addresses by DHCPv6 (`managed`), or name servers alone (`other`). */
  readonly flags: 'none' | 'other' | 'managed';
  readonly first?: string;
  readonly last?: string;
}

/** A limit: kilobits a second, and the octets that its bucket holds. */
export interface RateDocument {
  readonly kbps: number;
  readonly burst: number;
}
export interface CapDocument {
  readonly down?: RateDocument;
  readonly up?: RateDocument;
}
/** What clients may take: each, and all together. */
export interface CapsDocument {
  readonly client?: CapDocument;
  readonly all?: CapDocument;
}
/** The same of those in some VLANs. */
export interface VlanCapsDocument extends CapsDocument {
  readonly name: string;
  readonly vlans: readonly number[];
}

export interface GatewayDocument extends CommonDocument {
  readonly kind: 'gateway';
  readonly interfaces: readonly GatewayInterface[];
  readonly addressServices: readonly AddressServiceDocument[];
  readonly relays?: readonly RelayDocument[];
  readonly interfaces6?: readonly Interface6Document[];
  readonly uplinks: readonly UplinkDocument[];
  /** How it uses them together, where that is not as usual. */
  readonly leaving?: LeavingDocument;
  /** What leaves otherwise than the rest; the first that fits a packet decides. */
  readonly courses?: readonly CourseDocument[];
  /** As what some are seen outside; the first that fits decides. */
  readonly translations?: readonly TranslationDocument[];
  /** What people outside reach at its uplinks. */
  readonly published?: readonly PublishedDocument[];
  /** Where it sends what is for some prefixes, otherwise than the rest. */
  readonly routes?: readonly RouteDocument[];
  /** How it is joined to gateways of other sites. */
  readonly overlay?: OverlayDocument;
  /** Tunnels that it keeps with gateways of others. */
  readonly pacts?: readonly PactDocument[];
  /** How it takes turns with another gateway of the site; then it is told all that this one is, and both hold none of it at once. */
  readonly pair?: PairDocument;
  /** Only where APs carry something to it in tunnels. */
  readonly tunnels?: GatewayTunnelDocument;
  /** What clients may take of the way through it. */
  readonly caps?: readonly VlanCapsDocument[];
  /** What it lets pass, statefully; of a gateway that routes the site's segments. */
  readonly policy?: PolicyDocument;
}

export interface SwitchDocument extends CommonDocument {
  readonly kind: 'switch';
  readonly vlans: readonly { readonly vlan: number; readonly name: string }[];
  /** Judges each IP packet that passes the switch, by itself. */
  readonly list?: PolicyDocument;
  /** Its addresses in the VLANs that it routes between. */
  readonly interfaces?: readonly GatewayInterface[];
  /** Where it meets the gateway, with its own address there: whatever it has no network for goes to that one. */
  readonly onward?: OnwardDocument;
}

/** A router’s own address, with the length of the network, in the VLAN in which it meets the next one, and the address of that. */
export interface OnwardDocument {
  readonly vlan: number;
  readonly address: string;
  readonly to: string;
}

export interface SsidDocument {
  readonly id: string;
  readonly name: string;
  readonly security: SsidSecurity;
  /** Only where it asks for one. */
  readonly passphrase?: SecretRef;
  /** Instead of a passphrase: keys of a ring. */
  readonly ring?: RingDocument;
  /** One that is right as well until the end of a day by the site's clock; see `asksAt`. */
  readonly former?: { readonly passphrase: SecretRef; readonly until: string };
  readonly bands: readonly Band[];
  /** When it is on the air; absent: always. */
  readonly hours?: HoursDocument;
  /** Its name is in no beacon. */
  readonly hidden?: true;
  /** Signal in dBm that a client is taken in from, and below which it is sent away. */
  readonly join?: number;
  readonly stay?: number;
  /** Most clients of it on one radio. */
  readonly most?: number;
  /** Whether clients that hear a wider band well are not answered at 2.4 GHz. */
  readonly steer?: true;
  readonly roam?: readonly RoamAid[];
  /** How frames to all are kept down; absent: they are sent as they come. */
  readonly multicast?: MulticastWay;
  /** VLAN its clients join; with a pool, the first of it. Where they are carried to another site, it is one of that. */
  readonly vlan: number;
  /** VLANs that share its clients, ascending; which one a client joins follows from its MAC address. */
  readonly pool?: readonly number[];
  /** Whether its clients’ frames go through the AP’s tunnel, or to which address at another site; absent: over cables, by VLAN. */
  readonly tunnel?: true | string;
  /** Whether its clients are kept apart from each other. */
  readonly isolated?: true;
  /** Whether clients of the classes that its AP knows join theirs instead; where it asks who they are, of those that a server names. */
  readonly byClass?: true;
  /** Holds its clients until they are let in as guests. */
  readonly portal?: PortalDocument;
  /** What its clients may take of this AP. */
  readonly caps?: CapsDocument;
  /** Judge each IP packet from and to its clients, by itself. */
  readonly lists?: SsidLists;
  /** The same for clients of some class, instead of those; ordered by name. */
  readonly classLists?: readonly ClassLists[];
}
/** Whether an old passphrase is still right. @param day as 2026-12-25, by the site's clock. */
export const isFormerValid = ({ former }: Pick<SsidDocument, 'former'>, day: string): boolean =>
  former !== undefined && day <= former.until;

/**
 * What an SSID asks for at a band on a day. At 6 GHz there is nothing older than WPA3 and OWE (IEEE 802.11ax-2021 §12.12). SAE knows one
 * passphrase, which both ends choose before they know each other's: while an old one is right as well, clients come by WPA2 elsewhere.
 */
export function asksAt(ssid: Pick<SsidDocument, 'security' | 'former'>, band: Band, day: string): SsidSecurity {
  const { security } = ssid;
  if (security === 'wpa2-wpa3-enterprise' && band === '6') return 'wpa3-enterprise';
  if (security !== 'wpa2-wpa3-psk') return security;
  if (band === '6') return 'wpa3-sae';
  return isFormerValid(ssid, day) ? 'wpa2-psk' : security;
}

/** Whether something applies. @param minute of the week, and `day` as 2026-12-25, by the site's clock. */
export const appliesAt = (hours: HoursDocument | undefined, minute: number, day: string): boolean =>
  !hours || (!hours.closed?.includes(day) && isInForce(hours.times, minute));

/** Whether a port is in use at a moment. @param at milliseconds since 1970. */
export const isPortOpen = ({ hours }: PortDocument, clock: Clock, at: number): boolean => appliesNow(hours, clock, at);

/** Whether something applies at a moment by the clock of a site. @param at milliseconds since 1970. */
export const appliesNow = (hours: HoursDocument | undefined, { timeZone }: Clock, at: number): boolean =>
  !hours || appliesAt(hours, minuteOfWeek(at, timeZone), dayOf(at, timeZone));
interface Clock {
  /** IANA name. */
  readonly timeZone: string;
}

/** The SSIDs that an AP sends at a moment. @param at milliseconds since 1970. */
export function ssidsAt({ ssids, site }: Pick<ApDocument, 'ssids' | 'site'>, at: number): readonly SsidDocument[] {
  if (ssids.every(({ hours }) => !hours)) return ssids;
  const [minute, day] = [minuteOfWeek(at, site.timeZone), dayOf(at, site.timeZone)];
  return ssids.filter(({ hours }) => appliesAt(hours, minute, day));
}

/** What an AP lets pass from clients of an SSID, and to them. */
export interface SsidLists {
  readonly from: PolicyDocument;
  readonly to: PolicyDocument;
}

/** The same for clients of one class. */
export interface ClassLists extends SsidLists {
  readonly id: string;
  readonly name: string;
}

/** A channel: its primary 20 MHz, how wide it is in MHz, and the number of its middle as standards count it. */
export interface ChannelDocument {
  readonly channel: number;
  readonly width: number;
  readonly centre: number;
}

/** What one radio does. A band that is not told of is as usual, within what the country allows. */
export interface RadioDocument {
  readonly band: Band;
  /** Sends nothing; the fields below are not there then. */
  readonly off?: true;
  /** Where it sends; absent: on one of `choices`, which it takes by itself. */
  readonly at?: ChannelDocument;
  readonly choices?: readonly ChannelDocument[];
  /** EIRP in dBm. */
  readonly power?: number;
  /** Slowest rate in Mb/s, at which its beacons go out; only where it is not the usual: 1 at 2.4 GHz, 6 elsewhere. */
  readonly slowest?: number;
  /** Only on channels shared with radar: how it listens first, in seconds, how long they rest once radar was heard, and where it goes then. */
  readonly radar?: { readonly listen: number; readonly rest: number; readonly refuge?: ChannelDocument };
}

/** How an AP hangs on others by radio, and others on it. */
export interface MeshDocument {
  /** What the APs of a site prove to each other that they are of it by. */
  readonly key: SecretRef;
  /** Whether others may hang on it. */
  readonly carries?: true;
  /** How it hangs on one of them itself; absent: it does not. */
  readonly hang?: {
    readonly when: 'fallback' | 'always';
    readonly band: Band;
    /** Most radio hops to an AP with a cable. */
    readonly hops: number;
    /** Serial numbers of those it may hang on, ascending; absent: any. */
    readonly parents?: readonly string[];
  };
}

export interface ApDocument extends CommonDocument {
  readonly kind: 'ap';
  readonly ssids: readonly SsidDocument[];
  /** Only bands of which something was said. */
  readonly radios?: readonly RadioDocument[];
  /** Only where APs of the site hang on each other; it has a port `mesh` then. */
  readonly mesh?: MeshDocument;
  /** Only where an SSID of it is carried so. */
  readonly tunnel?: ApTunnelDocument;
  /** The same to other sites, by address. */
  readonly landings?: readonly ApTunnelDocument[];
  /** VLANs it routes itself, translating to its own address (RFC 3022). */
  readonly interfaces?: readonly GatewayInterface[];
}

/** The VLANs that clients of classes join at a device. */
export const vlansOfClasses = ({ classes = [] }: Pick<DeviceDocument, 'classes'>): readonly number[] =>
  classes.flatMap(({ vlan }) => vlan ?? []);

/** The address at another site that an SSID's clients are carried to; null: they stay at this one. */
export const farEndOfSsid = ({ tunnel }: Pick<SsidDocument, 'tunnel'>): string | null =>
  typeof tunnel === 'string' ? tunnel : null;

/** The tunnel that an SSID's clients are carried in; undefined: none. */
export const tunnelOfSsid = (
  { tunnel, landings = [] }: Pick<ApDocument, 'tunnel' | 'landings'>,
  ssid: Pick<SsidDocument, 'tunnel'>,
): ApTunnelDocument | undefined =>
  ssid.tunnel === true ? tunnel : landings.find(({ to }) => to === farEndOfSsid(ssid));

/** The VLANs of its site that an SSID puts clients into at an AP, those of keys and of classes included; each once. */
export const vlansOfSsid = (ssid: SsidDocument, ap: Pick<DeviceDocument, 'classes'>): readonly number[] =>
  farEndOfSsid(ssid) !== null
    ? []
    : [
        ...new Set([
          ...(ssid.pool ?? [ssid.vlan]),
          ...(ssid.ring?.segments ?? []).map(({ vlan }) => vlan),
          ...(ssid.byClass ? vlansOfClasses(ap) : []),
        ]),
      ];

/** The same of those that leave the AP by VLAN, and not in its tunnel. */
export const cabledVlansOfSsid = (ssid: SsidDocument, ap: Pick<DeviceDocument, 'classes'>): readonly number[] =>
  ssid.tunnel ? [] : vlansOfSsid(ssid, ap);

/** The VLANs that an AP carries in its tunnel, ascending. */
export const tunnelledVlans = ({ ssids, classes = [] }: Pick<ApDocument, 'ssids' | 'classes'>): number[] =>
  [...new Set(ssids.flatMap((ssid) => (ssid.tunnel ? vlansOfSsid(ssid, { classes }) : [])))].sort((a, b) => a - b);

/** The VLANs of another site that an AP carries to an address there, ascending. */
export const landedVlans = ({ ssids }: Pick<ApDocument, 'ssids'>, to: string): number[] =>
  [...new Set(ssids.flatMap((ssid) => (farEndOfSsid(ssid) === to ? [ssid.vlan] : [])))].sort((a, b) => a - b);

/** The class that a device gives a client; undefined for one it does not know. */
export const classOf = ({ classes = [] }: Pick<DeviceDocument, 'classes'>, mac: string): ClassDocument | undefined =>
  classes.find(({ members }) => members.includes(mac));

/** The class of those to whom nothing gives another. */
export const classOfOthers = ({ classes = [] }: Pick<DeviceDocument, 'classes'>): ClassDocument | undefined =>
  classes.find(({ otherwise }) => otherwise);

/** The VLANs a device has a router's address in. */
export const interfacesOf = (document: DeviceDocument): readonly GatewayInterface[] => document.interfaces ?? [];

/** All that one device is told; its identity is the hash of its canonical JSON. */
export type DeviceDocument = GatewayDocument | SwitchDocument | ApDocument;

/** Every list of rules a device was told, in the order of the document. */
export function policiesOf(document: DeviceDocument): readonly PolicyDocument[] {
  if (document.kind === 'gateway') return document.policy ? [document.policy] : [];
  if (document.kind === 'switch') return document.list ? [document.list] : [];
  return document.ssids
    .flatMap(({ lists, classLists }) => [...(lists ? [lists] : []), ...(classLists ?? [])])
    .flatMap(({ from, to }) => [from, to]);
}

/** The ids of the secrets a document refers to, each once, sorted. */
export function secretsOf(document: DeviceDocument): string[] {
  const servers = (document.radius?.servers ?? []).map(({ secret }) => secret.secret);
  if (document.kind === 'gateway')
    return [
      ...new Set([
        ...servers,
        ...document.uplinks.flatMap(({ login }) => (login ? [login.password.secret] : [])),
        ...(document.overlay ? [document.overlay.key.secret] : []),
        ...(document.pacts ?? []).map(({ key }) => key.secret),
      ]),
    ].sort();
  if (document.kind === 'switch') return [...new Set(servers)].sort();
  const keys = document.mesh ? [document.mesh.key.secret] : [];
  return [
    ...new Set([
      ...servers,
      ...document.ssids.flatMap(({ passphrase, former }) => [
        ...(passphrase ? [passphrase.secret] : []),
        ...(former ? [former.passphrase.secret] : []),
      ]),
      ...keys,
    ]),
  ].sort();
}
