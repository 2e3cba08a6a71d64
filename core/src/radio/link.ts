import { GENERATIONS, phyRate, type Phy, type Sending, type Width } from './phy';

const BOLTZMANN = 1.380649e-23;
const ROOM_KELVIN = 290;
/** What a usual receiver adds to the noise, in dB. */
export const NOISE_FIGURE_DB = 7;
/** How much better than an ideal one a real receiver has to hear, in dB. */
export const MARGIN_DB = 5;

/** What clients send with in dBm, most of them: they hear as much more than they are heard as the AP sends more. */
export const CLIENT_DBM = 15;
/** Noise figure and margin that the standards' sensitivities reckon with, and what is left of them: kTB of 20 MHz and 10 + 5 dB. */
const SENSITIVITY_TO_SNR_DB = 86;

/** Least signal in 20 MHz in dBm by MCS (802.11-2020 §19.3.19 and §21.3.18.1; 802.11ax §27.3.20); of EHT 12 and 13 not certain. */
const SENSITIVITY = [-82, -79, -77, -74, -70, -66, -65, -64, -59, -57, -54, -52, -49, -46];
/** Above it no MCS is chosen by signal alone. */
const MOST_MCS = 11;

/** Ten times the common logarithm: a ratio of powers in dB. @throws RangeError unless it is positive. */
export function decibels(ratio: number): number {
  if (!(ratio > 0)) throw new RangeError(`no decibels of ${ratio}`);
  return 10 * Math.log10(ratio);
}

/**
 * Noise that a receiver hears, in dBm: kTB and what it adds itself.
 * @param width of the channel in MHz. @param figure in dB.
 */
export const noiseFloor = (width: number, figure = NOISE_FIGURE_DB): number =>
  decibels(BOLTZMANN * ROOM_KELVIN * 1000 * width * 1e6) + figure;

/** Least signal that a receiver must make out, in dBm by width. @throws RangeError for an MCS that is not there. */
export function leastSignal(mcs: number): Readonly<Record<20 | 40 | 80 | 160, number>> {
  const least = SENSITIVITY[mcs];
  if (least === undefined) throw new RangeError(`no sensitivity of MCS ${mcs}`);
  return { 20: least, 40: least + 3, 80: least + 6, 160: least + 9 };
}

/** Signal over noise that an MCS asks for, in dB, the same for every width; streams share the power. */
export const requiredSnr = (mcs: number, nss: number, margin = MARGIN_DB): number =>
  leastSignal(mcs)[20] + SENSITIVITY_TO_SNR_DB + margin + decibels(nss);

/** What both ends can do. */
export interface LinkAbility {
  readonly phy: Phy;
  readonly width: Width;
  /** The fewer of the streams of both. */
  readonly maxNss: number;
  readonly gi: number;
  readonly margin?: number;
}

export interface BestRate {
  readonly nss: number;
  readonly mcs: number;
  /** In Mb/s. */
  readonly rate: number;
  /** In dB. */
  readonly requiredSnr: number;
}

/** The fastest way to send that a signal over noise allows, the more modest of two equal ones; null when there is none. */
export function bestRate(snr: number, ability: LinkAbility): BestRate | null {
  if (!Number.isFinite(snr)) throw new RangeError(`no rate at ${snr} dB`);
  // Each is faster than those before it, and asks for more.
  return ladderOf(ability).findLast(({ requiredSnr: needs }) => needs <= snr + 1e-9) ?? null;
}

const ladders = new Map<string, readonly BestRate[]>();
/** Abilities that are remembered: there are few kinds of ends. */
const MOST_LADDERS = 500;

/** Ways to send that are worth it: none is both slower than another and asks for more. The most modest first. */
function ladderOf({ phy, width, maxNss, gi, margin = MARGIN_DB }: LinkAbility): readonly BestRate[] {
  const key = `${phy} ${width} ${maxNss} ${gi} ${margin}`;
  const known = ladders.get(key);
  if (known) return known;
  const ways: BestRate[] = [];
  for (let nss = 1; nss <= Math.min(maxNss, GENERATIONS[phy].nss); nss++)
    for (const mcs of GENERATIONS[phy].mcs) {
      const sending: Sending = { phy, width, nss, mcs, gi };
      const rate = mcs > MOST_MCS ? null : phyRate(sending);
      if (rate !== null) ways.push({ nss, mcs, rate, requiredSnr: requiredSnr(mcs, nss, margin) });
    }
  ways.sort((a, b) => a.requiredSnr - b.requiredSnr || b.rate - a.rate);
  const ladder: BestRate[] = [];
  for (const way of ways) if (way.rate > (ladder.at(-1)?.rate ?? 0) + 1e-9) ladder.push(way);
  if (ladders.size >= MOST_LADDERS) ladders.clear();
  ladders.set(key, ladder);
  return ladder;
}
