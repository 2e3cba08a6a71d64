import type { PortDocument } from '../document';
import type { Link, ResolvedSite, RosterDevice, Segment } from '../intent';
import type { Documents } from '../lattice';
import { holderOf } from '../rollout';
import type { AirFacts } from './air-facts';
import type { GuestFacts } from './guest-facts';
import type { Finding } from './finding';
import type { MeshTree } from './mesh-tree';
import { SiteNetwork } from './site-network';
import { routerOf } from './told-route';

/** An uplink of a gateway as it is now, by the provider's address. */
export interface UplinkAddress {
  readonly deviceId: string;
  readonly port: string;
  readonly address: string;
  /** What the provider delegated for the inside (RFC 8415 §6.3); absent: nothing. */
  readonly prefix?: string;
  /** The provider’s router; absent: not known. */
  readonly gateway?: string;
}

/** A class that a server names and that devices of a site do not know: whoever has it is let in nowhere. */
export interface StrangeClass {
  readonly server: string;
  readonly said: string;
  /** Clients that it was named for. */
  readonly count: number;
}

/** How clients say who they are to a server. */
export interface ServerMethods {
  readonly server: string;
  /** Clients that it wants another method of than they have. */
  readonly refused: number;
  /** Clients that hand it their password, inside TLS (EAP-TTLS with PAP). */
  readonly pap: number;
  /** A method by which others come, and that hands over none; null: none does. */
  readonly other: { readonly method: 'peap' | 'eap-tls'; readonly count: number } | null;
}

/** Keys of a ring that lead nowhere at any site. */
export interface LostKeys {
  readonly ssidId: string;
  readonly count: number;
  /** Where they were to lead, in words; the first few. */
  readonly to: readonly string[];
  /** All of them lead to classes that are there, and that do not count on the SSID. */
  readonly uncounted: boolean;
}

/** A server whose authority, by which clients believe it, ends within 30 days. */
export interface EndingAuthority {
  readonly radiusId: string;
  /** Its last day; null: what stands there is no certificate that can be read. */
  readonly day: string | null;
  readonly over: boolean;
}

/** Certificates that end within 30 days, or did in the last 30, and that none follows yet. */
export type EndingCertificate = { readonly day: string; readonly over: boolean } & (
  | {
      /** What a server showed when it was asked last. */
      readonly kind: 'shown';
      readonly radiusId: string;
      /** Whom it is for, and the day on which it was seen. */
      readonly name: string;
      readonly seen: string;
    }
  | {
      /** What the estate’s own authority made: of one server, or of users. */
      readonly kind: 'servers' | 'users';
      /** Whose they are, the first that ends first; of very many some. */
      readonly names: readonly string[];
      readonly count: number;
    }
);

/** What is doubtful of the directory that the controller asks for users whom it does not keep. */
export interface DirectoryDoubts {
  /** Its account may look at what passwords are kept as. */
  readonly passwords: boolean;
  /** Anybody may search it. */
  readonly anybody: boolean;
  /** What is said to it is encrypted for nobody. */
  readonly clear: boolean;
}

/** All a check may look at: the intent as resolved, what it compiles to, and what devices report. */
export interface CheckContext {
  readonly site: ResolvedSite;
  readonly roster: readonly RosterDevice[];
  readonly documents: Documents;
  /** Cables, and links by radio as they would be. */
  readonly links: readonly Link[];
  /** How APs hang on each other by radio. */
  readonly tree: MeshTree;
  readonly uplinks: readonly UplinkAddress[];
  /** The site's tags. */
  readonly tags?: readonly string[];
  /** Tags of devices that have some, by id. */
  readonly deviceTags?: Readonly<Record<string, readonly string[]>>;
  /** What its APs heard; absent: they never scanned. */
  readonly air?: AirFacts;
  /** Ids of passphrases that guessers try first. */
  readonly common?: readonly string[];
  /** Ids of secrets of servers that are the same, in groups. */
  readonly alike?: readonly (readonly string[])[];
  /** Classes that servers name there and devices do not know. */
  readonly strangers?: readonly StrangeClass[];
  /** What clients make of servers, where that is worth telling. */
  readonly methods?: readonly ServerMethods[];
  /** Servers whose authority ends soon. */
  readonly ending?: readonly EndingAuthority[];
  /** Absent: there is none. */
  readonly directory?: DirectoryDoubts;
  /** Certificates that end soon. */
  readonly certificates?: readonly EndingCertificate[];
  /** Keys of rings that lead nowhere at any site. */
  readonly lostKeys?: readonly LostKeys[];
  /** The keys of the estate’s authority have 256 bits. */
  readonly shortKeys?: boolean;
  /** How guests are let in; absent: there is no portal. */
  readonly guests?: GuestFacts;
  readonly devices: ReadonlyMap<string, RosterDevice>;
  /** How its routers hand packets to each other; null: it has no gateway that routes. */
  readonly network: () => SiteNetwork | null;
  /** Segments by VLAN ID. */
  readonly vlans: ReadonlyMap<number, Segment>;
  /** Ports that cables end at, by device and name. */
  readonly cabled: ReadonlyMap<string, PortDocument>;
}

/** One kind of fault: everything of that kind at a site. */
export type Check = (context: CheckContext) => Finding[];

/** Puts together what checks look at. @param plugged links as they are reported: a cable that is not used is plugged in all the same. */
export function contextOf(
  given: Omit<CheckContext, 'devices' | 'vlans' | 'cabled' | 'network'>,
  plugged: readonly Link[] = given.links,
): CheckContext {
  const cabled = new Map<string, PortDocument>();
  for (const { deviceId, port } of [...given.links, ...plugged].flatMap(({ a, b }) => [a, b])) {
    const found = given.documents.get(deviceId)?.ports.find((each) => each.name === port);
    if (found) cabled.set(`${deviceId} ${port}`, found);
  }
  let network: SiteNetwork | null | undefined;
  return {
    ...given,
    cabled,
    network: () => (network === undefined ? (network = networkOf(given)) : network),
    devices: new Map(given.roster.map((device) => [device.id, device])),
    vlans: new Map(given.site.segments.map((segment) => [segment.vlan, segment])),
  };
}

function networkOf({
  site,
  roster,
  documents,
  uplinks,
}: Pick<CheckContext, 'site' | 'roster' | 'documents' | 'uplinks'>) {
  const holder = holderOf({ site, roster });
  const router = routerOf(site, roster, documents);
  const own = uplinks.filter(({ deviceId }) => deviceId === holder);
  return router && new SiteNetwork({ site, roster, router, uplinks: own });
}

/** A device's name, for sentences. */
export const nameIn = (context: CheckContext, deviceId: string): string =>
  context.devices.get(deviceId)?.name ?? context.site.routers?.find(({ id }) => id === deviceId)?.name ?? deviceId;

/** Whether a site has a segment, or a pool of segments, of that name that is switched off. */
export const isOff = ({ off }: Pick<ResolvedSite, 'off'>, name: string): boolean =>
  off.some((segment) => segment.name.toLowerCase() === name.toLowerCase());
