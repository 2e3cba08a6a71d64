import type { SpeedTry } from '../line';
import { predictedSpeed, type Width } from '../radio';
import { allowedBlock } from '../regulation';
import type { MeasuredLoss } from './hearing';
import { partsMet, strangersOn, type HeardAir } from './others';

/** An AP of ours that may be heard while a speed is tried. */
export interface SpeedNeighbour {
  readonly deviceId: string;
  readonly centre: number;
  readonly width: number;
  /** EIRP in dBm. */
  readonly power: number;
  readonly clients: number;
}

/** Share of the air that an AP takes for its beacons by itself, and with each client that only keeps in touch. */
const [IDLE, EACH] = [0.02, 0.015];
/** Signal in dBm at which another is waited for. */
const WAITS = -82;

/**
 * What a probe is expected to get, in Mb/s of TCP towards it.
 * @param signal as the probe hears the AP, in dBm.
 * @param streams that both ends do.
 * @returns null for a channel that is not legal there.
 */
export function speedForecast(
  {
    country,
    deviceId,
    channel,
    width,
    signal,
    streams,
  }: {
    readonly country: string;
    readonly deviceId: string;
    readonly channel: number;
    readonly width: Width;
    readonly signal: number;
    readonly streams: number;
  },
  asked: SpeedTry,
  heard: HeardAir,
  ours: ReadonlySet<string>,
  neighbours: readonly SpeedNeighbour[],
  losses: readonly MeasuredLoss[],
): number | null {
  const { band, phy } = asked;
  const wide = Math.min(width, asked.width) as Width;
  const block = allowedBlock(country, band, channel, wide);
  if (!block) return null;
  const others = strangersOn(band, block, heard, (bssid) => ours.has(bssid));
  for (const each of neighbours) {
    const pair = losses.find(
      ({ band: of, a, b }) =>
        of === band && ((a === deviceId && b === each.deviceId) || (b === deviceId && a === each.deviceId)),
    );
    if (!pair || each.power - pair.loss < WAITS) continue;
    const parts = partsMet(band, block, each);
    if (parts.length > 0) others.push({ parts, share: Math.min(0.95, IDLE + EACH * each.clients) });
  }
  return predictedSpeed({
    phy,
    maxNss: streams,
    band,
    width: wide,
    signal,
    primary: block.members.indexOf(channel),
    others,
  });
}
