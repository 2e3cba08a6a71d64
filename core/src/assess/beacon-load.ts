import { BANDS, sheetFor, type Band } from '../hardware';
import {
  bandSetting,
  radioSetting,
  sends,
  utf8Length,
  type RosterDevice,
  type SitePart,
  type SiteSsid,
} from '../intent';
import { beaconMicros, beaconOctets, beaconShare, basicRatesAt, type BasicRate } from '../radio';
import type { AirFacts } from './air-facts';

/** Signal in dBm from which a beacon is waited for. */
const WAITS = -82;
/** Waiting before each, in microseconds: DIFS (IEEE 802.11-2020 §10.3.2.3.5). */
const ACCESS: Readonly<Record<Band, number>> = { '2.4': 28, '5': 34, '6': 34 };
/** Shares of the air that are much, and too much. */
export const [MUCH_BEACON, TOO_MUCH_BEACON] = [0.05, 0.1];

/** What beacons take of the air at one radio. */
export interface BeaconLoad {
  readonly deviceId: string;
  readonly band: Band;
  /** Primary channel; null: it takes one by itself, and only its own beacons are reckoned with. */
  readonly channel: number | null;
  /** Networks that it sends, and all that are heard on its channel, its own included. */
  readonly own: number;
  readonly heard: number;
  /** APs of ours that share its channel and are heard there, itself included. */
  readonly aps: number;
  readonly share: number;
}

/** What is sent at a site: networks by band, as long as their names are. */
export interface Sending {
  readonly bands: readonly Band[];
  /** Octets of the name. */
  readonly octets: number;
  /** Ids of the APs that send it; absent: all that can. */
  readonly senders?: readonly string[];
}
type BeaconSite = Pick<SitePart, 'country' | 'bands' | 'radios'>;

/** SSIDs as far as their beacons go. */
export const sendingOf = (ssids: readonly Pick<SiteSsid, 'name' | 'bands' | 'hidden' | 'senders'>[]): Sending[] =>
  ssids.map(({ name, bands, hidden, senders }) => ({
    ...{ bands, octets: hidden ? 0 : utf8Length(name) },
    ...(senders ? { senders } : {}),
  }));

/**
 * Share of the air that beacons of our APs take at each radio that sends: its own, and those of others on its channel that it hears.
 * @param near path losses between APs, as measured. @param slowest another slowest rate than the site says, by band.
 */
export function beaconLoads(
  site: BeaconSite,
  roster: readonly RosterDevice[],
  sent: readonly Sending[],
  near: AirFacts['near'] = [],
  slowest: Readonly<Partial<Record<Band, BasicRate>>> = {},
): BeaconLoad[] {
  return BANDS.flatMap((band) => {
    const networks = sent.filter(({ bands }) => bands.includes(band));
    const rate = slowest[band] ?? bandSetting(site, band).slowest;
    if (networks.length === 0 || !basicRatesAt(band).includes(rate)) return [];
    const shareOf = ({ octets }: Sending): number => {
      const micros = beaconMicros(beaconOctets(band, octets), rate, band)!;
      return beaconShare(micros, 1, 1, { access: ACCESS[band] }).share;
    };
    const shares = networks.map((network) => ({ network, share: shareOf(network) }));
    const sum = (some: typeof shares): number => some.reduce((all, each) => all + each.share, 0);
    // What every AP sends is added up once.
    const some = shares.filter(({ network }) => network.senders !== undefined);
    const all = shares.filter(({ network }) => network.senders === undefined);
    const [allCount, allShare] = [all.length, sum(all)];
    const radios = roster.flatMap((device) => {
      if (!sheetFor(device).radios.some((radio) => radio.band === band)) return [];
      const { on, at, eirp } = radioSetting(site, device, band);
      const mine = some.filter(({ network }) => sends(network, device.id));
      const own = allCount + mine.length;
      if (!on || eirp === null || own === 0) return [];
      // All that it sends takes this much each interval.
      return [{ id: device.id, channel: at?.channel ?? null, eirp, own, share: allShare + sum(mine) }];
    });
    const byId = new Map(radios.map((radio) => [radio.id, radio]));
    const heard = new Map(radios.map(({ id, own, share }) => [id, { count: own, aps: 1, share }]));
    const hears = (id: string, other: { readonly own: number; readonly share: number }): void => {
      const sum = heard.get(id)!;
      sum.count += other.own;
      sum.aps++;
      sum.share += other.share;
    };
    for (const { band: of, a, b, loss } of near) {
      const [one, two] = [byId.get(a), byId.get(b)];
      if (of !== band || !one || !two || one.channel === null || one.channel !== two.channel) continue;
      if (two.eirp - loss >= WAITS) hears(a, two);
      if (one.eirp - loss >= WAITS) hears(b, one);
    }
    return radios.map(({ id, channel, own }): BeaconLoad => {
      const { count, aps, share } = heard.get(id)!;
      return { deviceId: id, band, channel, own, heard: count, aps, share };
    });
  });
}

/** The heaviest of each band. */
export function heaviest(loads: readonly BeaconLoad[]): BeaconLoad[] {
  return BANDS.flatMap((band) => {
    const of = loads.filter((load) => load.band === band);
    return of.length > 0 ? [of.reduce((most, load) => (load.share > most.share ? load : most))] : [];
  });
}
