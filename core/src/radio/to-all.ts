import type { Band } from '../hardware';
import { beaconMicros, type BasicRate } from './beacon';

/** Frames to all that come for the clients of one network: how many a second, and how long each is, in octets. */
export interface ToAll {
  readonly perSecond: number;
  readonly octets: number;
}

/** What a radio adds to each frame: header, CCMP and check (IEEE 802.11-2020 §9.2.3, §12.5.3.2, §9.2.4.8), in octets. */
const HEADER = 26 + 16 + 4;
/** Waiting before each: DIFS (§10.3.2.3.5); the pause before an answer and the answer at 24 Mb/s (§10.3.2.3.3, §17.3.2), in microseconds. */
const ACCESS: Readonly<Record<Band, number>> = { '2.4': 28, '5': 34, '6': 34 };
const ANSWERED: Readonly<Record<Band, number>> = { '2.4': 10 + 34, '5': 16 + 28, '6': 16 + 28 };
/** Preamble of a frame to one of 802.11n and newer, in microseconds (§19.3.2, §21.3.2). */
const PREAMBLE = 40;

/** Octets of the shortest and of the longest frame that is reckoned with. */
const [LEAST, MOST] = [60, 2304];

/**
 * Share of the air that frames to all take where they are sent once for everybody: at the slowest rate, which all have to understand,
 * and answered by nobody (IEEE 802.11-2020 §10.6.5.1).
 */
export function shareToAll({ perSecond, octets }: ToAll, rate: BasicRate, band: Band): number {
  const micros = beaconMicros(Math.min(MOST, Math.max(LEAST, Math.round(octets) + HEADER)), rate, band);
  return micros === null ? 0 : (perSecond * (ACCESS[band] + micros)) / 1e6;
}

/**
 * The same where each client is sent its own copy, at its own rate, and answers it: more copies, each of them shorter.
 * @param rates of the clients, in Mb/s.
 */
export const shareToEach = ({ perSecond, octets }: ToAll, rates: readonly number[], band: Band): number =>
  rates.reduce(
    (sum, rate) =>
      sum +
      (perSecond * (ACCESS[band] + PREAMBLE + (8 * (octets + HEADER)) / Math.max(1, rate) + ANSWERED[band])) / 1e6,
    0,
  );
