import type { Band } from '../hardware';
import { WIDTHS, type Width } from './phy';

/** A stretch of a band on which a radio sends. */
export interface Block {
  /** Number of its centre, as standards count it; of a channel of 20 MHz that is the channel's own. */
  readonly centre: number;
  readonly centreMhz: number;
  /** The 20 MHz channels that it is made of. */
  readonly members: readonly number[];
}

const range = (first: number, last: number, step: number): number[] =>
  Array.from({ length: Math.floor((last - first) / step) + 1 }, (_, i) => first + i * step);

/** Channels of 20 MHz (802.11-2020 Annex E; 802.11ax Annex E). */
export const CHANNELS: Readonly<Record<Band, readonly number[]>> = {
  '2.4': range(1, 14, 1),
  '5': [...range(36, 64, 4), ...range(100, 144, 4), ...range(149, 177, 4)],
  '6': range(1, 233, 4),
};

/** Centres of wider ones, by band and width. At 2.4 GHz any two that are four apart are joined. */
const CENTRES: Readonly<Record<'5' | '6', Readonly<Partial<Record<Width, readonly number[]>>>>> = {
  '5': {
    40: [...range(38, 62, 8), ...range(102, 142, 8), ...range(151, 175, 8)],
    80: [42, 58, 106, 122, 138, 155, 171],
    160: [50, 114, 163],
  },
  '6': { 40: range(3, 227, 8), 80: range(7, 215, 16), 160: range(15, 207, 32), 320: range(31, 191, 32) },
};
const LAST_OF_2_4_PAIRS = 13;

/**
 * Centre frequency in MHz of a channel by its number, or by that of the middle of a wider one (802.11-2020 §17.3.8.4, Annex E; 802.11ax §27.3.23).
 * @throws RangeError for a number that the band does not have.
 */
export function centreMhzOf(band: Band, channel: number): number {
  const last = { '2.4': 14, '5': 200, '6': 233 }[band];
  if (!Number.isInteger(channel) || channel < 1 || channel > last)
    throw new RangeError(`there is no channel ${channel} at ${band} GHz`);
  if (band === '2.4') return channel === 14 ? 2484 : 2407 + 5 * channel;
  if (band === '5') return 5000 + 5 * channel;
  return channel === 2 ? 5935 : 5950 + 5 * channel;
}

/** Channels of 20 MHz of which one with that centre is made. */
const membersOf = (centre: number, width: Width): number[] => {
  const parts = width / 20;
  return Array.from({ length: parts }, (_, i) => centre - 2 * (parts - 1) + 4 * i);
};

const blockAt = (band: Band, centre: number, width: Width): Block => ({
  centre,
  centreMhz: centreMhzOf(band, centre),
  members: membersOf(centre, width),
});

/** All channels of a band that are so wide, from the lowest on; none where the band has no such. */
export function blocksOf(band: Band, width: Width): Block[] {
  if (width === 20) return CHANNELS[band].map((channel) => blockAt(band, channel, 20));
  if (band !== '2.4') return (CENTRES[band][width] ?? []).map((centre) => blockAt(band, centre, width));
  if (width !== 40) return [];
  return range(3, LAST_OF_2_4_PAIRS - 2, 1).map((centre) => blockAt(band, centre, 40));
}

/** Wider channels that have a 20 MHz channel in them, by width; whether a country allows them is another question. */
export function blocksAround(band: Band, primary: number): Readonly<Partial<Record<Width, readonly Block[]>>> {
  if (!CHANNELS[band].includes(primary)) throw new RangeError(`there is no channel ${primary} at ${band} GHz`);
  const wide = WIDTHS.filter((width) => width > 20 && (band === '6' || width <= 160));
  return Object.fromEntries(
    wide.map((width) => [width, blocksOf(band, width).filter(({ members }) => members.includes(primary))]),
  );
}

/** Channels at 6 GHz at which clients look first (802.11ax §26.17.2.3.3). */
export const FIRST_LOOKED_AT: readonly number[] = range(5, 229, 16);
