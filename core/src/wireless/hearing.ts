import type { Band } from '../hardware';
import type { AirHeard } from './wireless.contract';

/** Who sent a network that was heard: one of our APs, and how strong it sends, in dBm EIRP. */
export interface Sender {
  readonly deviceId: string;
  readonly power: number;
}

/** What of a signal is lost between two APs at a band, in dB, as measured. */
export interface MeasuredLoss {
  readonly band: Band;
  readonly a: string;
  readonly b: string;
  readonly loss: number;
}

/**
 * Path losses between APs from what they heard of each other: both ways where both heard, on the average, since the way is the same
 * (reciprocity).
 * @param senderOf who sends a network, by its BSSID; undefined: a stranger.
 */
export function measuredLosses(
  heard: readonly AirHeard[],
  senderOf: (bssid: string) => Sender | undefined,
): MeasuredLoss[] {
  const found = new Map<string, { band: Band; a: string; b: string; sum: number; count: number }>();
  for (const { deviceId, networks } of heard) {
    // Each of an AP's networks comes the same way: the strongest counts.
    const best = new Map<string, { band: Band; from: string; loss: number }>();
    for (const { bssid, band, signal } of networks) {
      const sender = senderOf(bssid);
      if (!sender || sender.deviceId === deviceId) continue;
      const key = `${band} ${sender.deviceId}`;
      const loss = sender.power - signal;
      if (!best.has(key) || best.get(key)!.loss > loss) best.set(key, { band, from: sender.deviceId, loss });
    }
    for (const { band, from, loss } of best.values()) {
      const [a, b] = [deviceId, from].sort() as [string, string];
      const key = `${band} ${a} ${b}`;
      const known = found.get(key) ?? { band, a, b, sum: 0, count: 0 };
      found.set(key, { ...known, sum: known.sum + loss, count: known.count + 1 });
    }
  }
  return [...found.values()].map(({ band, a, b, sum, count }) => ({ band, a, b, loss: sum / count }));
}
