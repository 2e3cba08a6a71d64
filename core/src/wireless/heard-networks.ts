import type { Band } from '../hardware';
import type { HeardChannel, HeardNetwork } from '../line';
import { centreMhzOf } from '../radio';
import type { AirHeard, AirView } from './wireless.contract';

/** A network of a site's air, by all of our APs that hear it. */
export interface AirNetwork extends HeardNetwork {
  /** Its lower and its upper end in MHz. */
  readonly from: number;
  readonly to: number;
  /** The AP of ours that sends it; null: a stranger's. */
  readonly sentBy: string | null;
  /** A stranger's that carries a name of ours. */
  readonly lookalike: boolean;
  /** APs that hear it, the loudest first. */
  readonly heardBy: readonly { readonly name: string; readonly signal: number }[];
}

/** A stretch of spectrum in MHz. */
export type Stretch = readonly [low: number, high: number];

/** The stretch of spectrum that a band is drawn over, in MHz. */
export const BAND_SPANS: Readonly<Record<Band, Stretch>> = {
  '2.4': [2400, 2496],
  '5': [5160, 5905],
  '6': [5935, 7125],
};

/**
 * Networks that APs heard, each once: as the AP told it that hears it loudest.
 * @param nameOf names a device by its id.
 * @param names of our SSIDs.
 * @param only APs whose hearing counts; absent: all.
 */
export function airNetworks(
  { heard, ours }: Pick<AirView, 'heard' | 'ours'>,
  nameOf: (deviceId: string) => string,
  names: readonly string[],
  only?: ReadonlySet<string>,
): AirNetwork[] {
  const senders = new Map(ours.map(({ bssid, deviceId }) => [bssid, deviceId]));
  const known = new Set(names.map((name) => name.toLowerCase()));
  const found = new Map<string, { network: HeardNetwork; heardBy: { name: string; signal: number }[] }>();
  for (const { deviceId, name, networks } of heard) {
    if (only && !only.has(deviceId)) continue;
    for (const network of networks) {
      const key = `${network.bssid} ${network.band}`;
      const one = found.get(key) ?? { network, heardBy: [] };
      if (network.signal > one.network.signal) one.network = network;
      one.heardBy.push({ name, signal: network.signal });
      found.set(key, one);
    }
  }
  return [...found.values()].map(({ network, heardBy }): AirNetwork => {
    const sender = senders.get(network.bssid);
    const middle = centreMhzOf(network.band, network.centre);
    // Of thousands at once: bundlers write a spread as a loop of their own, several times as slow.
    return Object.assign({}, network, {
      from: middle - network.width / 2,
      to: middle + network.width / 2,
      sentBy: sender === undefined ? null : nameOf(sender),
      lookalike: sender === undefined && network.ssid !== '' && known.has(network.ssid.toLowerCase()),
      heardBy: heardBy.length > 1 ? heardBy.sort((a, b) => b.signal - a.signal) : heardBy,
    });
  });
}

/** How busy each channel of a band is where it is busiest of some APs, in the order of the band. */
export function busiest(heard: readonly AirHeard[], band: Band, only?: ReadonlySet<string>): HeardChannel[] {
  const found = new Map<number, HeardChannel>();
  for (const { deviceId, channels } of heard) {
    if (only && !only.has(deviceId)) continue;
    for (const each of channels) {
      if (each.band !== band) continue;
      const known = found.get(each.channel);
      if (!known || known.busy < each.busy) found.set(each.channel, each);
    }
  }
  return [...found.values()].sort((a, b) => a.channel - b.channel);
}
