import { BANDS, sheetFor, type Band } from '../hardware';
import { bandSetting, radioSetting, utf8Length, type RosterDevice, type SitePart, type Ssid } from '../intent';
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
  readonly share: number;
}

/** What is sent at a site: networks by band, as long as their names are. */
export interface Sending {
  readonly bands: readonly Band[];
  /** Octets of the name. */
  readonly octets: number;
}
type BeaconSite = Pick<SitePart, 'country' | 'bands' | 'radios'>;

/** SSIDs as far as their beacons go. */
export const sendingOf = (ssids: readonly Pick<Ssid, 'name' | 'bands' | 'hidden'>[]): Sending[] =>
  ssids.map(({ name, bands, hidden }) => ({ bands, octets: hidden ? 0 : utf8Length(name) }));

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
    // All that one AP sends takes this much each interval.
    const each = networks.reduce((sum, { octets }) => {
      const micros = beaconMicros(beaconOctets(band, octets), rate, band)!;
      return sum + beaconShare(micros, 1, 1, { access: ACCESS[band] }).share;
    }, 0);
    const radios = roster.flatMap((device) => {
      if (!sheetFor(device).radios.some((radio) => radio.band === band)) return [];
      const { on, at, eirp } = radioSetting(site, device, band);
      return on && eirp !== null ? [{ id: device.id, channel: at?.channel ?? null, eirp }] : [];
    });
    const byId = new Map(radios.map((radio) => [radio.id, radio]));
    const heard = new Map(radios.map(({ id }) => [id, 1]));
    for (const { band: of, a, b, loss } of near) {
      const [one, two] = [byId.get(a), byId.get(b)];
      if (of !== band || !one || !two || one.channel === null || one.channel !== two.channel) continue;
      if (two.eirp - loss >= WAITS) heard.set(a, heard.get(a)! + 1);
      if (one.eirp - loss >= WAITS) heard.set(b, heard.get(b)! + 1);
    }
    return radios.map(({ id, channel }): BeaconLoad => {
      const aps = heard.get(id)!;
      const own = networks.length;
      return { deviceId: id, band, channel, own, heard: own * aps, share: each * aps };
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
