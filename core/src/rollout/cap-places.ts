import { sheetFor } from '../hardware';
import { plainSegmentsOfSsid, segmentsOfSsid, sends, type SiteClass, type SiteSsid } from '../intent';
import type { CapWay, Limit } from '../traffic';
import { cabledSegments, holderOf } from './facts';
import { routedByGateway } from './parts/routing';
import { fact, type Source } from './reads';

/** Where a cap of a whole SSID is held, and by how many. */
export interface CapPlace {
  /** `parts`: at the APs, each of which lets an equal part through. */
  readonly at: 'gateway' | 'ap' | 'parts' | 'nowhere';
  /** APs that send it. */
  readonly aps: number;
  /** Why it is held there. */
  readonly why: string;
}

/** Where the caps of whole SSIDs are held at a site, by the SSID's id. */
export const capPlaces = fact(
  {
    site: ['ssids', 'managementId'],
    devices: ['id', 'model', 'sheet'],
    facts: { holder: holderOf, routed: routedByGateway, cabled: cabledSegments },
  },
  ({ ssids, managementId, devices, holder, routed, cabled }): ReadonlyMap<string, CapPlace> => {
    const bands = devices.map((device) => {
      const sheet = sheetFor(device);
      return { id: device.id, own: sheet.kind === 'ap' ? sheet.radios.map(({ band }) => band) : [] };
    });
    const through = new Set(routed.map(({ id }) => id));
    const placeOf = (ssid: SiteSsid): CapPlace => {
      const aps = bands.filter(
        ({ id, own }) => sends(ssid, id) && own.some((band) => ssid.bands.includes(band)),
      ).length;
      const own = plainSegmentsOfSsid(ssid);
      const isSent = own.length > 0 || Boolean(ssid.landed?.segment);
      if (aps === 0 || !isSent) return { at: 'nowhere', aps: 0, why: 'No AP here sends it.' };
      const shared = (id: string): boolean =>
        id === managementId ||
        cabled.segmentIds.includes(id) ||
        ssids.some((other) => other.id !== ssid.id && segmentsOfSsid(other).includes(id));
      if (holder !== null && !ssid.classes && !ssid.landed && own.every((id) => through.has(id) && !shared(id)))
        return { at: 'gateway', aps, why: 'Nobody else is in its segment, so the gateway sees all of it together.' };
      if (aps === 1) return { at: 'ap', aps, why: 'One AP sends it, and sees all of it.' };
      const because = ssid.landed
        ? `its clients come out at ${ssid.landed.name}`
        : ssid.classes
          ? 'its clients join segments of their classes'
          : holder === null
            ? 'no gateway of ours is here'
            : own.some(shared)
              ? 'others are in its segment, and the gateway does not tell them apart'
              : 'the gateway does not route its segment';
      return { at: 'parts', aps, why: `Each of ${aps} APs lets 1/${aps} of it through: ${because}.` };
    };
    return new Map(ssids.map((ssid) => [ssid.id, placeOf(ssid)]));
  },
);

/** Limits that clients of an SSID meet one way at a site: its own, and those that they share with all in their segment. */
export interface CapLimits {
  readonly own: readonly Limit[];
  readonly around: readonly Limit[];
}

/**
 * The limits that clients of an SSID meet.
 * @param own caps to be taken instead of what the SSID says: while they are typed.
 * @param atOne whether they are all at one AP, and meet no more than its part of a cap that is held in parts.
 * @param accessClass whose clients they are: what it gives each stands instead of what the SSID does, and its segment is theirs.
 */
export function capLimits(
  source: Source,
  ssid: SiteSsid,
  way: CapWay,
  {
    own = ssid.caps,
    atOne = false,
    accessClass,
  }: {
    readonly own?: SiteSsid['caps'];
    readonly atOne?: boolean;
    readonly accessClass?: Pick<SiteClass, 'name' | 'rate' | 'segmentId'> | undefined;
  } = {},
): CapLimits {
  const mine: Limit[] = [];
  const ofClass = accessClass?.rate?.[way];
  const client = ofClass ?? own?.client?.[way];
  const place = capPlaces(source).get(ssid.id);
  const parts = atOne && place?.at === 'parts' ? place.aps : 1;
  const all = (own?.all?.[way] ?? 0) / parts;
  const each = ofClass ? `each of class ${accessClass.name}` : 'each client';
  if (client) mine.push({ of: each, each: true, kbps: client });
  if (all) mine.push({ of: 'all together', each: false, kbps: all });
  const routed = new Set(routedByGateway(source).map(({ id }) => id));
  const held = holderOf(source) !== null;
  const segmentId = accessClass ? accessClass.segmentId : plainSegmentsOfSsid(ssid)[0];
  const segment = source.site.segments.find(({ id }) => id === segmentId);
  const caps = segment && held && routed.has(segment.id) ? segment.caps : undefined;
  const around: Limit[] = [];
  if (caps?.client?.[way]) around.push({ of: `each of ${segment!.name}`, each: true, kbps: caps.client[way] });
  if (caps?.all?.[way]) around.push({ of: `all of ${segment!.name}`, each: false, kbps: caps.all[way] });
  return { own: mine, around };
}
