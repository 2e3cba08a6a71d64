import { parsePrefix } from '../address';
import {
  asksPassphrase,
  ROAM_AIDS,
  type GatewayInterface,
  type HoursDocument,
  type PortalDocument,
  type RingDocument,
  type SsidDocument,
} from '../document';
import { readPage } from '../guests';
import { sheetFor, type HardwareSheet } from '../hardware';
import {
  isUplink,
  ownAddresses,
  pairHere,
  fixedAddressIn,
  isRoutedByGateway,
  ownSegmentsOfSsid,
  portSetting,
  cabledSegmentsOfSsid,
  segmentsOfSsid,
  servedFrom,
  type PairHere,
  type Segment,
  type Hours,
  type Portal,
  type SiteSsid,
  type Ssid,
} from '../intent';
import { each, fact, ofAll } from './reads';

/** A site's segments by their ids. */
export const segmentsById = fact(
  { site: ['segments'] },
  ({ segments }): ReadonlyMap<string, Segment> => new Map(segments.map((segment) => [segment.id, segment])),
);

/** VLAN IDs of the segments that SSIDs put clients into over cables: without those whose frames never leave an AP, or leave it in its tunnel. */
export const airedVlans = fact(
  { site: ['ssids'], facts: { byId: segmentsById } },
  ({ ssids, byId }) =>
    ascending(
      ssids.flatMap(cabledSegmentsOfSsid).flatMap((id) => {
        const segment = byId.get(id);
        return segment && !staysInAp(segment) ? [segment.vlan] : [];
      }),
    ),
  { settles: true },
);

/** VLAN IDs of the segments that SSIDs put clients into through tunnels to the gateway, which routes them. */
export const tunnelledAtSite = fact(
  { site: ['ssids'], facts: { byId: segmentsById } },
  ({ ssids, byId }) =>
    ascending(
      ssids.flatMap((ssid) => {
        const routed = (id: string): number[] => {
          const segment = byId.get(id);
          return segment && isRoutedByGateway(segment) ? [segment.vlan] : [];
        };
        return ssid.tunnel ? segmentsOfSsid(ssid).flatMap(routed) : [];
      }),
    ),
  { settles: true },
);

/** VLAN IDs of all segments, ascending. */
export const allVlans = fact({ site: ['segments'] }, ({ segments }) => ascending(segments.map(({ vlan }) => vlan)), {
  settles: true,
});

/** VLAN IDs of the segments whose frames leave an AP, ascending. */
export const leavingVlans = fact(
  { site: ['segments'] },
  ({ segments }) => ascending(segments.flatMap((segment) => (staysInAp(segment) ? [] : [segment.vlan]))),
  { settles: true },
);

/** VLAN IDs whose clients are kept apart from each other. */
export const keptVlans = fact(
  { site: ['segments'] },
  ({ segments }) => segments.flatMap(({ vlan, isolation }) => (isolation?.clients ? [vlan] : [])),
  { settles: true },
);

/** What APs of each model send: the site's SSIDs that they have a band and the site a segment for. */
export const sentByModel = fact(
  { site: ['ssids'], devices: ['model', 'sheet'], facts: { byId: segmentsById, kept: keptVlans } },
  ({ ssids, byId, kept, devices }): ReadonlyMap<HardwareSheet, readonly SsidDocument[]> => {
    const sheets = new Set(devices.map(sheetFor).filter(({ kind }) => kind === 'ap'));
    const sent = (sheet: HardwareSheet): SsidDocument[] => {
      const bands = new Set(sheet.radios.map(({ band }) => band));
      return ssids.flatMap((ssid): SsidDocument[] => {
        const { landed } = ssid;
        const vlans = landed
          ? [landed.segment?.vlan ?? []].flat()
          : ascending(ownSegmentsOfSsid(ssid).flatMap((id) => byId.get(id)?.vlan ?? []));
        const shared = ssid.bands.filter((band) => bands.has(band));
        if (vlans.length === 0 || shared.length === 0) return [];
        const { id, name, security } = ssid;
        const pool = ssid.pool ? { pool: vlans } : {};
        const apart =
          ssid.isolation?.clients || (landed ? landed.segment?.apart : vlans.some((vlan) => kept.includes(vlan)));
        const isolated = apart ? { isolated: true as const } : {};
        const byClass = ssid.classes ? { byClass: true as const } : {};
        const key = ssid.ring ? { ring: ringDocument(ssid, byId, kept) } : asksPassphrase(security) ? keysOf(ssid) : {};
        const tunnel = ssid.tunnel ? { tunnel: landed ? landed.to : (true as const) } : {};
        const rest = { ...pool, ...tunnel, ...isolated, ...byClass, ...behaviour(ssid) };
        return [{ id, name, security, ...key, bands: shared, vlan: vlans[0]!, ...rest }];
      });
    };
    return new Map([...sheets].map((sheet) => [sheet, sent(sheet)]));
  },
);

/** Hours of the estate as devices are told them, by id. */
export const hoursById = fact(
  { estate: ['hours'] },
  ({ estate }): ReadonlyMap<string, HoursDocument> =>
    new Map((estate.hours ?? []).map((hours) => [hours.id, hoursDocument(hours)])),
);

const hoursDocument = ({ name, times, closed }: Hours): HoursDocument => ({
  name,
  times,
  ...(closed ? { closed } : {}),
});

/** Where the keys of a ring lead. */
const ringDocument = (
  { ringSegments = [], isolation, keysAt, segmentId: own }: SiteSsid,
  byId: ReadonlyMap<string, Segment>,
  kept: readonly number[],
): RingDocument => {
  const asked = keysAt === 'servers';
  const ids = new Set([...ringSegments.map(({ segmentId }) => segmentId), ...(asked && own !== null ? [own] : [])]);
  const segments = [...ids].map((id) => {
    const { name, vlan } = byId.get(id)!;
    return { name, vlan, ...(isolation?.clients || kept.includes(vlan) ? { isolated: true as const } : {}) };
  });
  return { segments: segments.sort(byName), ...(asked ? { asked } : {}) };
};

const byName = (a: { readonly name: string }, b: { readonly name: string }): number => (a.name < b.name ? -1 : 1);

/** The passphrase of an SSID, and one that is right as well for a while. */
const keysOf = ({ passphrase, former }: Ssid): Pick<SsidDocument, 'passphrase' | 'former'> => ({
  ...(passphrase ? { passphrase } : {}),
  ...(former ? { former: { passphrase: { secret: former.secret }, until: former.until } } : {}),
});

/** Portals as devices are told them, by id. */
export const portalsById = fact(
  { estate: ['portals', 'hours'] },
  ({ estate: { portals = [], hours = [] } }): ReadonlyMap<string, PortalDocument> =>
    new Map(
      portals.map((portal) => [
        portal.id,
        portalDocument(
          portal,
          hours.find(({ id }) => id === portal.hours),
        ),
      ]),
    ),
);

/** Those that an answer of a server may name, by name. */
export const namedPortals = fact(
  { estate: ['portals'], facts: { known: portalsById } },
  ({ estate: { portals = [] }, known }): readonly PortalDocument[] =>
    portals.flatMap(({ id, named }) => (named ? [known.get(id)!] : [])),
  { settles: true },
);

/** Where guests are held; what its pages link to, and whoever keeps accounts, is in the walled garden. */
function portalDocument(
  { id, name, garden, newsLink, ways, account, quiet }: Portal,
  within: Hours | undefined,
): PortalDocument {
  const links = [newsLink, ways.includes('account') ? account?.issuer : null];
  const hosts = links.flatMap((link) => (link ? (readPage(link)?.host ?? []) : []));
  const all = [...new Set([...garden, ...hosts, ...(quiet ?? [])])].sort();
  return {
    ...{ id, name },
    ...(all.length > 0 ? { garden: all } : {}),
    ...(quiet ? { quiet: true as const } : {}),
    ...(within ? { hours: hoursDocument(within) } : {}),
  };
}

/** How an SSID treats clients, where that is not the usual. */
const behaviour = ({
  hidden,
  join,
  stay,
  most,
  steer,
  roam,
  multicast,
  within,
  held,
  heldWithin,
}: SiteSsid): Partial<SsidDocument> => ({
  ...(within ? { hours: hoursDocument(within) } : {}),
  ...(hidden ? { hidden: true } : {}),
  ...(typeof join === 'number' ? { join } : {}),
  ...(typeof stay === 'number' ? { stay } : {}),
  ...(typeof most === 'number' ? { most } : {}),
  ...(steer ? { steer: true } : {}),
  ...(multicast ? { multicast } : {}),
  ...(held ? { portal: portalDocument(held, heldWithin) } : {}),
  ...(roam && roam.length > 0 ? { roam: ROAM_AIDS.filter((aid) => roam.includes(aid)) } : {}),
});

/** SSIDs that chosen APs send, by id. */
export const chosenSenders = fact(
  { site: ['ssids'] },
  ({ ssids }): Readonly<Record<string, readonly string[]>> =>
    Object.fromEntries(ssids.flatMap(({ id, senders }) => (senders ? [[id, senders] as const] : []))),
  { settles: true },
);

/** A pair of gateways that takes turns, with the own address of each. */
export interface TurnTakers extends PairHere {
  readonly own: NonNullable<ReturnType<typeof ownAddresses>>;
}

/** The pair of gateways of a site; null: none, or one that is told of no pair, since one of the two or an address for it lacks. Then one alone holds the segments' addresses. */
export const pairAt = fact(
  { site: ['pair', 'management'], devices: ['id', 'name', 'serial', 'model', 'sheet', 'address'] },
  ({ pair, management, devices }): TurnTakers | null => {
    const here = pairHere(pair, devices);
    const own = here && ownAddresses(here, management, devices);
    return own ? { ...here, own } : null;
  },
  { settles: true },
);

/** The id of the gateway that holds the segments' addresses: of a pair the first, else the first by name; null where there is none. */
export const holderOf = fact(
  { facts: { pair: pairAt }, devices: ['id', 'name', 'model', 'sheet'] },
  ({ pair, devices }): string | null => {
    if (pair) return pair.first.id;
    const gateways = devices.filter((device) => sheetFor(device).kind === 'gateway');
    return gateways.sort((a, b) => (a.name < b.name ? -1 : 1))[0]?.id ?? null;
  },
);

/** That one, and the other of its pair: both are told what the one that routes has to know. */
export const holdersOf = fact(
  { facts: { pair: pairAt, holder: holderOf } },
  ({ pair, holder }): readonly string[] => (pair ? [pair.first.id, pair.second.id] : holder === null ? [] : [holder]),
  { settles: true },
);

/**
 * Gateway addresses of subnets that devices still have their fixed addresses in: the gateway keeps answering there until
 * the rollout is over, or the first device told would cut off all the others.
 */
export const formerGateways = fact(
  { site: ['segments', 'management'], devices: ['address'] },
  ({ segments, management: { gateway, subnet }, devices }) => {
    const old = devices.flatMap(({ address }) =>
      address && address.gateway !== gateway && fixedAddressIn(address, { gateway, subnet })
        ? [`${address.gateway}/${address.length}`]
        : [],
    );
    const taken = new Set(segments.map((segment) => segment.gateway));
    return [...new Set(old)].filter((text) => !taken.has(text.split('/')[0]!)).sort();
  },
  { settles: true },
);

/** Where ports put clients, by the segments' ids, and whether some port asks who they are. */
export interface Cabled {
  readonly segmentIds: readonly string[];
  readonly asks: boolean;
}

/** Ports for the inside that were made uplinks, as `device port`. */
export const madeUplinks = fact(
  { site: ['uplinks'], devices: ['id', 'model', 'sheet'] },
  ({ uplinks = {}, devices }): readonly string[] => {
    const site = { uplinks };
    return devices
      .filter(({ id }) => uplinks[id])
      .flatMap((device) =>
        sheetFor(device).ports.flatMap((port) =>
          port.role !== 'wan' && isUplink(site, device, port) ? [`${device.id} ${port.name}`] : [],
        ),
      );
  },
  { settles: true },
);

/** The same of one device. */
const cabledAt = each(
  { site: ['duties', 'managementId'], facts: { madeUplinks }, device: ['id', 'model', 'sheet'], own: 'ports' },
  ({ duties, managementId, madeUplinks: made }, device): Cabled => {
    const site = { ports: { [device.id]: device.ports }, managementId, ...(duties ? { duties } : {}) };
    const inside = sheetFor(device).ports.filter(
      ({ role, name }) => role !== 'wan' && !made.includes(`${device.id} ${name}`),
    );
    const settings = inside.map(({ name }) => portSetting(site, device, name));
    const plain = settings.flatMap(({ untagged, guest, rejected, unanswered, auth }) => {
      const own = auth === 'mac' ? [] : [untagged];
      return [...own, ...(auth === 'none' ? [] : [guest, rejected, unanswered])].flatMap((id) => id ?? []);
    });
    return { segmentIds: [...new Set(plain)], asks: settings.some(({ auth }) => auth !== 'none') };
  },
);

/** Where all ports of a site put clients. */
export const cabledSegments = fact(
  { site: ['managementId'], facts: { found: ofAll(cabledAt) } },
  ({ managementId, found }): Cabled => {
    // Devices themselves are cabled.
    const segmentIds = new Set([managementId, ...found.flatMap((one) => one.segmentIds)]);
    return { segmentIds: [...segmentIds].sort(), asks: found.some(({ asks }) => asks) };
  },
  { settles: true },
);

/** Whether each AP routes the segment for its own clients, so that its frames never leave it. */
export const staysInAp = ({ addresses }: Segment): boolean => {
  const from = addresses && servedFrom(addresses);
  return from?.kind === 'ap' && from.how === 'each';
};

/** A router's own address in a segment. */
export const interfaceOf = (segment: Segment): GatewayInterface => ({
  vlan: segment.vlan,
  name: segment.name,
  address: `${segment.gateway}/${parsePrefix(segment.subnet)!.length}`,
});

/** Each once, in order. */
export const ascending = (vlans: readonly number[]): number[] => [...new Set(vlans)].sort((a, b) => a - b);
