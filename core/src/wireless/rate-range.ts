import { BANDS, type Band } from '../hardware';
import { basicRatesAt, leastForRate, type BasicRate } from '../radio';

/** How well a client was heard at a site over some days: the best and the weakest, in dBm as it heard the AP. */
export interface HeardClient {
  readonly mac: string;
  readonly band: Band;
  readonly best: number;
  readonly weakest: number;
}

/** Whom a slowest rate would leave out. */
export interface RateRange {
  readonly rate: BasicRate;
  /** Clients that never were near enough for it, and those that were at times and at times not. */
  readonly never: number;
  readonly sometimes: number;
}

/** Clients of the last days at one band of a site. */
export interface BandRange {
  readonly band: Band;
  readonly clients: number;
  readonly rates: readonly RateRange[];
}

/** Days that are looked back on. */
export const RANGE_DAYS = 30;

/** Whom each rate would leave out as the slowest, by what it takes to be heard at it (IEEE 802.11-2020 §15.4.6, §16.3.8, §17.3.10.2). */
export function rateRanges(clients: readonly HeardClient[]): BandRange[] {
  return BANDS.flatMap((band) => {
    const mine = clients.filter((each) => each.band === band);
    if (mine.length === 0) return [];
    const rates = basicRatesAt(band).map((rate): RateRange => {
      const least = leastForRate(rate);
      const never = mine.filter(({ best }) => best < least).length;
      const weak = mine.filter(({ weakest }) => weakest < least).length;
      return { rate, never, sometimes: weak - never };
    });
    return [{ band, clients: mine.length, rates }];
  });
}
