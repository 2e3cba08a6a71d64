import { flaw, type Flaw } from '../base';
import { groupShares } from './fair-share';

/** Limits of what passes each way, in kilobits a second of what the air and cables carry (IP and above); null: none. */
export interface CapPair {
  readonly down?: number | null;
  readonly up?: number | null;
}

/** What clients may take: each of them, and all together. */
export interface Caps {
  readonly client?: CapPair | null;
  readonly all?: CapPair | null;
  /** For how long somebody may send at once what was saved up, in milliseconds of the rate; absent: `USUAL_BURST`. */
  readonly burst?: number | null;
}

/** Kilobits a second that a cap may be of, and milliseconds of a burst. */
export const [LEAST_CAP, MOST_CAP] = [64, 100_000_000];
export const [LEAST_BURST, MOST_BURST, USUAL_BURST] = [20, 5000, 100];
/** Octets of the longest frame: a bucket holds two of them at least, or none would ever pass. */
const FRAME = 1514;

export const CAP_WAYS = ['down', 'up'] as const;
export type CapWay = (typeof CAP_WAYS)[number];

/** What is wrong with caps. @param zero completes “A cap of 0 lets nothing through: …”. */
export function capFlaws({ client, all, burst }: Caps, zero: string): Flaw[] {
  const flaws: Flaw[] = [];
  for (const [of, pair] of Object.entries({ client, all }))
    for (const way of CAP_WAYS) {
      const kbps = pair?.[way];
      if (kbps === null || kbps === undefined) continue;
      const field = `caps.${of}.${way}`;
      if (kbps === 0) flaws.push(flaw('caps.zero', `A cap of 0 lets nothing through: ${zero}.`, field));
      else if (!Number.isInteger(kbps) || kbps < LEAST_CAP || kbps > MOST_CAP)
        flaws.push(flaw('caps.range', 'A cap lies between 64 kb/s and 100 Gb/s.', field));
    }
  if (typeof burst === 'number' && (burst < LEAST_BURST || burst > MOST_BURST))
    flaws.push(flaw('caps.burst', `A burst lasts ${LEAST_BURST} to ${MOST_BURST} ms.`, 'caps.burst'));
  return flaws;
}

/** Caps without what says nothing; undefined: nothing is said. */
export function plainCaps(caps: Caps | null | undefined): Caps | undefined {
  const pair = (of: CapPair | null | undefined): CapPair | undefined => {
    const said = CAP_WAYS.flatMap((way) => (typeof of?.[way] === 'number' ? [[way, of[way]] as const] : []));
    return said.length > 0 ? Object.fromEntries(said) : undefined;
  };
  const [client, all] = [pair(caps?.client), pair(caps?.all)];
  if (!client && !all) return undefined;
  const burst = typeof caps?.burst === 'number' && caps.burst !== USUAL_BURST ? { burst: caps.burst } : {};
  return { ...(client ? { client } : {}), ...(all ? { all } : {}), ...burst };
}

/**
 * Octets that a bucket of a cap holds: what passes in the time of its burst, and two frames at least. TCP keeps a rate when the bucket
 * holds what is under way, rate × round trip (50 to 100 ms of it).
 */
export const burstOctets = (kbps: number, burst: number | null | undefined): number =>
  Math.max(2 * FRAME, Math.round((kbps * (burst ?? USUAL_BURST)) / 8));

/** A limit that somebody meets on the way: of each client by itself, or of all that share it. */
export interface Limit {
  /** Whose it is. */
  readonly of: string;
  readonly each: boolean;
  readonly kbps: number;
}

/** What one of `count` clients gets that all ask for as much as there is, and the limit that decides; null: none is met. */
export function shareOf(limits: readonly Limit[], count: number): { readonly kbps: number; readonly by: Limit } | null {
  const shares = limits.map((by) => ({ by, kbps: by.each ? by.kbps : by.kbps / count }));
  return shares.length === 0 ? null : shares.reduce((least, each) => (each.kbps < least.kbps ? each : least));
}

/** Clients that share caps: those of one SSID, or what else a segment has. */
export interface Sharers {
  readonly count: number;
  readonly limits: readonly Limit[];
}

/**
 * What each of several groups' clients gets while all of them ask for as much as there is (max-min fair).
 * @param around limits that all groups meet together. @returns kb/s of each group's clients; Infinity: nothing limits them.
 */
export function sharesAmong(groups: readonly Sharers[], around: readonly Limit[]): number[] {
  const capacity = Math.min(Infinity, ...around.flatMap((limit) => (limit.each ? [] : [limit.kbps])));
  const ownEach = (limits: readonly Limit[]): number =>
    Math.min(Infinity, ...[...limits, ...around].flatMap((limit) => (limit.each ? [limit.kbps] : [])));
  const whole = (limits: readonly Limit[]): number =>
    Math.min(Infinity, ...limits.flatMap((limit) => (limit.each ? [] : [limit.kbps])));
  if (capacity === Infinity)
    return groups.map(({ limits, count }) => (count === 0 ? 0 : Math.min(ownEach(limits), whole(limits) / count)));
  const asked = groups.map(({ limits, count }) => ({
    cap: whole(limits),
    clientCap: ownEach(limits),
    demands: Array.from({ length: count }, () => capacity),
    // Clients are equals, whatever group they are of.
    weight: Math.max(1, count),
  }));
  return groupShares(capacity, asked).map((shares) => shares[0] ?? 0);
}
