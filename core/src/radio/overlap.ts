/** Frequencies around a centre, in MHz. */
export interface Span {
  readonly centreMhz: number;
  readonly width: number;
}

/** Share of the power of one that falls into another, as if it were spread evenly: 0 where they do not meet. */
export function overlapOf(sent: Span, heard: Span): number {
  const [low, high] = [
    Math.max(sent.centreMhz - sent.width / 2, heard.centreMhz - heard.width / 2),
    Math.min(sent.centreMhz + sent.width / 2, heard.centreMhz + heard.width / 2),
  ];
  return Math.max(0, high - low) / sent.width;
}

/** Power density of 20 MHz OFDM at the most, in dB below its middle, by distance from there in MHz (802.11-2020 §17.3.9.3); nothing beyond. */
const MASK: readonly (readonly [mhz: number, db: number])[] = [
  ...([
    [0, 0],
    [9, 0],
    [11, -20],
    [20, -28],
    [30, -40],
    [40, -40],
  ] as const),
];

/** Power between two distances on one side of the middle, as if the middle's density were 1 mW a MHz. */
function powerBetween(from: number, to: number): number {
  let sum = 0;
  for (const [i, [start, db]] of MASK.entries()) {
    const next = MASK[i + 1];
    if (!next) break;
    const [low, high] = [Math.max(from, start), Math.min(to, next[0])];
    if (high <= low) continue;
    const slope = (next[1] - db) / (next[0] - start);
    const at = (mhz: number): number => 10 ** ((db + slope * (mhz - start)) / 10);
    sum += slope === 0 ? at(low) * (high - low) : ((at(high) - at(low)) * 10) / (Math.LN10 * slope);
  }
  return sum;
}

/**
 * Share of the power of a 20 MHz channel at the mask's limit that falls into a receiver so far away: real radios leak less.
 * @param offset of the centres in MHz. @param half of the receiver's width in MHz.
 */
export function maskLeak(offset: number, half = 10): number {
  const [low, high] = [Math.abs(offset) - half, Math.abs(offset) + half];
  const heard = low < 0 ? powerBetween(0, -low) + powerBetween(0, high) : powerBetween(low, high);
  return heard / (2 * powerBetween(0, Infinity));
}

/** Most EIRP in dBm where the power of each MHz is limited too. @param density in dBm a MHz. @param most in dBm. */
export const eirpWithin = (density: number, most: number, width: number): number =>
  Math.min(most, density + 10 * Math.log10(width));
