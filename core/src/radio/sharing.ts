/** How the air is shared by those who hear each other. */

/** Share of the time that the air is busy, of a BSS Load element's octet (802.11-2020 §9.4.2.27). */
export function busyOfLoad(octet: number): number {
  if (!Number.isInteger(octet) || octet < 0 || octet > 255) throw new RangeError(`no octet: ${octet}`);
  return octet / 255;
}

/** Signal in dBm of a received channel power indicator (802.11-2020 §9.4.2.37); null when none was measured. */
export function signalOfIndicator(indicator: number): number | null {
  if (!Number.isInteger(indicator) || indicator < 0 || indicator > 255) throw new RangeError(`no octet: ${indicator}`);
  return indicator > 220 ? null : indicator / 2 - 110;
}

/**
 * Shares of the air of saturated senders: each sends as often as the others, so whoever is slow takes more of it (Heusse et al.,
 * INFOCOM 2003). @param times how long each sends when it does.
 */
export function sharesOf(times: readonly number[]): number[] {
  const all = times.reduce((sum, time) => sum + time, 0);
  if (times.some((time) => !(time >= 0)) || (times.length > 0 && !(all > 0))) throw new RangeError('no times to share');
  return times.map((time) => time / all);
}

export interface WidthShares {
  /** Shares of the attempts that go out this wide. */
  readonly 20: number;
  readonly 40: number;
  readonly 80: number;
  readonly deferred: number;
}

/**
 * How wide frames go out at 80 MHz where parts of it are busy: the primary channel is waited for, each further part has to be idle
 * for PIFS (802.11-2020 §10.23.2.5).
 * @param busy shares of the four 20 MHz parts. @param primary the number of the primary one among them.
 * @param together whether one neighbour covers them all, or they are busy each by itself.
 */
export function widthShares(busy: readonly number[], primary: number, together: boolean): WidthShares {
  if (busy.length !== 4 || busy.some((share) => !(share >= 0 && share <= 1)))
    throw new RangeError('four shares of 0 to 1');
  if (![0, 1, 2, 3].includes(primary)) throw new RangeError(`no part ${primary}`);
  const idle = busy.map((share) => 1 - share);
  const all = (parts: readonly number[]): number =>
    together ? Math.min(...parts) : parts.reduce((product, part) => product * part, 1);
  const first = primary < 2 ? 0 : 2;
  const [alone, pair, whole] = [idle[primary]!, all(idle.slice(first, first + 2)), all(idle)];
  return { 20: alone - pair, 40: pair - whole, 80: whole, deferred: 1 - alone };
}

/**
 * How often each of saturated senders starts in a slot, and how often what it sends collides (Bianchi, JSAC 18(3), 2000, eq. 7 and 9).
 * @param senders how many. @param window least contention window. @param stages how often it is doubled.
 */
export function contention(senders: number, window: number, stages: number): { starts: number; collides: number } {
  if (!Number.isInteger(senders) || senders < 1 || !(window >= 1) || !(stages >= 0))
    throw new RangeError('nobody to contend');
  const startsAt = (p: number): number => {
    // (1 - (2p)^m) / (1 - 2p) as a sum, which has no gap at a half.
    let sum = 0;
    for (let i = 0; i < stages; i++) sum += (2 * p) ** i;
    return 2 / (1 + window + p * window * sum);
  };
  let [low, high] = [0, 1];
  for (let i = 0; i < 200; i++) {
    const p = (low + high) / 2;
    if (1 - (1 - startsAt(p)) ** (senders - 1) > p) low = p;
    else high = p;
  }
  const collides = senders === 1 ? 0 : (low + high) / 2;
  return { starts: startsAt(collides), collides };
}
