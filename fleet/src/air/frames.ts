import type { Band } from '@iron-lattice/core/hardware';
import {
  bitsOfSymbol,
  GENERATIONS,
  noiseFloor,
  requiredSnr,
  symbolUs,
  type Phy,
  type Sending,
  type Width,
} from '@iron-lattice/core/radio';

/** Times in microseconds. */
export const SLOT = 9;
export const SIFS: Readonly<Record<Band, number>> = { '2.4': 10, '5': 16, '6': 16 };
/** Idle time before best effort counts down: three slots after SIFS. */
export const aifs = (band: Band): number => SIFS[band] + 3 * SLOT;
export const PIFS: Readonly<Record<Band, number>> = { '2.4': 19, '5': 25, '6': 25 };
/** Least and greatest contention window. */
export const WINDOW = { least: 15, most: 1023 } as const;
/** Longest aggregate, and most frames in it. */
const [LONGEST_US, MOST_TOGETHER] = [2528, 256];
/** Octets of a frame on the air that carries a packet of 1500, and one that acknowledges TCP. */
export const OCTETS = { data: 1560, acknowledgement: 112 } as const;
/** What of a packet is data of TCP. */
export const PAYLOAD = 1448;
const SPREAD_OF_ERRORS = 0.8;

export interface Choice {
  readonly mcs: number;
  readonly nss: number;
}

/** Share of frames that get through at a signal over noise and interference, in dB. A tenth is lost at what an MCS asks for. */
export function getsThrough(sinr: number, { mcs, nss }: Choice): number {
  const half = requiredSnr(mcs, nss) - SPREAD_OF_ERRORS * Math.log(9);
  return 1 / (1 + Math.exp(-(sinr - half) / SPREAD_OF_ERRORS));
}

/** How a sender that has tried them all sends best: what gets through the fastest. @returns null where nothing does. */
export function bestChoice(phy: Phy, width: Width, streams: number, snr: number): Choice | null {
  let best: { choice: Choice; speed: number } | null = null;
  for (let nss = 1; nss <= streams; nss++)
    for (const mcs of GENERATIONS[phy].mcs) {
      if (mcs > 11) break;
      const bits = bitsOfSymbol({ phy, width, nss, mcs, gi: 0.8 });
      if (bits === null) continue;
      const through = getsThrough(snr, { mcs, nss });
      const speed = bits * through;
      if (through > 0.3 && speed > (best?.speed ?? 0)) best = { choice: { mcs, nss }, speed };
    }
  return best?.choice ?? null;
}

const TRAINING = [0, 1, 2, 4, 4, 6, 6, 8, 8];
/** Time on the air of so many frames of so many octets, sent as one. */
export function airTime(sending: Sending, frames: number, octets: number, band: Band): number {
  const training = TRAINING[sending.nss]!;
  const before =
    sending.phy === 'HT' ? 32 + 4 * training : sending.phy === 'VHT' ? 36 + 4 * training : 36 + 7.2 * training;
  const symbols = Math.ceil((22 + 8 * frames * octets) / bitsOfSymbol(sending)! - 1e-9);
  return before + symbols * symbolUs(sending) + (band === '2.4' ? 6 : 0);
}

/** How many frames go out as one. */
export function togetherAtMost(sending: Sending, waiting: number, octets: number, band: Band): number {
  let frames = Math.max(1, Math.min(waiting, MOST_TOGETHER));
  while (frames > 1 && airTime(sending, frames, octets, band) > LONGEST_US) {
    const over = airTime(sending, frames, octets, band) / LONGEST_US;
    frames = Math.max(1, Math.min(frames - 1, Math.floor(frames / over)));
  }
  return frames;
}

/** Time of the answer that says which frames of a block came. */
export const answerTime = (band: Band): number => 20 + 4 * Math.ceil((22 + 8 * 56) / 96) + (band === '2.4' ? 6 : 0);

/** Noise of a receiver in mW over a width. */
export const noiseMw = (width: number): number => 10 ** (noiseFloor(width) / 10);
