import type { Band } from '../hardware';
import { CHANNELS } from '../radio';

/** How long a radio listens on each channel of a scan, and what it needs around that, in seconds. */
const [DWELL, AROUND] = [0.11, 1];
/** Two APs that lose less than that between them, in dB, serve each other's clients while one scans. */
const NEAR_DB = 90;

/** How long a scan of bands keeps an AP from its clients, in seconds: its radios go through their bands side by side. */
export const scanSeconds = (bands: readonly Band[]): number =>
  Math.ceil(AROUND + DWELL * Math.max(0, ...bands.map((band) => CHANNELS[band].length)));

/**
 * Which APs scan together, one group after another, so that no place is without any: an AP scans while one that is near goes on, and
 * of those of which nothing is known only one at a time.
 * @param loss between two APs in dB; undefined where they never heard each other, or it was never measured.
 * @param measured whether an AP ever scanned, so that what it did not hear is far away.
 */
export function scanOrder(
  aps: readonly string[],
  loss: (a: string, b: string) => number | undefined,
  measured: (ap: string) => boolean,
): readonly (readonly string[])[] {
  const near = (a: string, b: string): boolean => {
    const known = loss(a, b);
    return known === undefined ? !(measured(a) && measured(b)) : known < NEAR_DB;
  };
  const groups: string[][] = [];
  for (const ap of aps) {
    const group = groups.find((members) => members.every((other) => !near(ap, other)));
    if (group) group.push(ap);
    else groups.push([ap]);
  }
  return groups;
}
