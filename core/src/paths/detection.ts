/** How an uplink is watched. Times in seconds. */
export interface Watching {
  readonly interval: number;
  /** Answers in a row that have to be missing. */
  readonly losses: number;
  /** How long an answer is waited for. */
  readonly timeout: number;
}

/** Octets of an echo and its answer over IPv4 (RFC 792): 84 each. */
export const EXCHANGE_OCTETS = 168;
const [DAY_S, MONTH_DAYS] = [86_400, 30];

/**
 * Seconds until it is noticed that an uplink is gone: at best it goes just before a check, at worst just after one.
 * @throws RangeError unless it is watched at all.
 */
export function noticedAfter({ interval, losses, timeout }: Watching): {
  readonly best: number;
  readonly mean: number;
  readonly worst: number;
} {
  if (!(interval > 0) || !(losses >= 1) || !(timeout >= 0))
    throw new RangeError('an uplink is watched in some interval');
  return {
    best: (losses - 1) * interval + timeout,
    mean: (losses - 0.5) * interval + timeout,
    worst: losses * interval + timeout,
  };
}

/**
 * Mean seconds between two times at which a good uplink is taken to be gone, since checks get lost by chance (mean wait for a run of losses, Feller,
 * An Introduction to Probability Theory I, XIII.7). Real losses come in bursts: it is sooner then.
 * @param loss share of checks that get lost, between 0 and 1. @throws RangeError for another.
 */
export function wronglyGoneEvery({ interval, losses }: Pick<Watching, 'interval' | 'losses'>, loss: number): number {
  if (!(loss > 0 && loss < 1)) throw new RangeError('a share of losses lies between 0 and 1');
  const run = loss ** losses;
  return (interval * (1 - run)) / ((1 - loss) * run);
}

/** What watching costs: bits a second, and megabytes in 30 days. @param octets of one check with its answer. */
export function watchingCost(
  interval: number,
  targets: number,
  octets = EXCHANGE_OCTETS,
): { readonly bitsASecond: number; readonly megabytesAMonth: number } {
  if (!(interval > 0)) throw new RangeError('an uplink is watched in some interval');
  const bitsASecond = (8 * octets * targets) / interval;
  return { bitsASecond, megabytesAMonth: (bitsASecond / 8) * DAY_S * MONTH_DAYS * 1e-6 };
}
