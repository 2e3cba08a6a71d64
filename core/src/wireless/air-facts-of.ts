import { MOST_NEAR, MOST_STRANGERS, type AirFacts } from '../assess';
import { measuredLosses, type Sender } from './hearing';
import type { AirHeard } from './wireless.contract';

/** Loss in dB beyond which two APs are nothing to each other. */
const FAR_DB = 110;

/** What findings ask of the air, from what APs heard. @param senderOf who of ours sends a network, by its BSSID. */
export function airFactsOf(heard: readonly AirHeard[], senderOf: (bssid: string) => Sender | undefined): AirFacts {
  const near = measuredLosses(heard, senderOf)
    .filter(({ loss }) => loss <= FAR_DB)
    .sort((a, b) => a.loss - b.loss)
    .slice(0, MOST_NEAR)
    .map(({ loss, ...pair }) => ({ ...pair, loss: Math.round(loss * 10) / 10 }));
  const found = new Map<
    string,
    AirFacts['strangers'][number] & { readonly heardBy: { deviceId: string; signal: number }[] }
  >();
  for (const { deviceId, networks } of heard)
    for (const { bssid, ssid, band, channel, signal } of networks) {
      if (senderOf(bssid)) continue;
      const one = found.get(bssid) ?? { bssid, ssid, band, channel, heardBy: [] };
      one.heardBy.push({ deviceId, signal });
      found.set(bssid, one);
    }
  const strangers = [...found.values()].map((one) => ({
    ...one,
    heardBy: one.heardBy.sort((a, b) => b.signal - a.signal),
  }));
  strangers.sort((a, b) => b.heardBy[0]!.signal - a.heardBy[0]!.signal);
  return { near, strangers: strangers.slice(0, MOST_STRANGERS) };
}
