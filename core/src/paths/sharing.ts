import { fnv1a32, mix32, parseIp, type IpAddress } from '../address';

/** A flow of packets that belong together. */
export interface Flow {
  /** Number of the protocol (IANA). */
  readonly protocol: number;
  readonly source: IpAddress;
  readonly destination: IpAddress;
  /** 0 where the protocol has none. */
  readonly sourcePort: number;
  readonly port: number;
  /** Mark that its packets bear (RFC 2474); absent: 0. */
  readonly dscp?: number;
}

/** A flow between two addresses. @returns null where one of them is none, or they are of different versions. */
export function flowBetween(
  source: string,
  destination: string,
  ends: Pick<Flow, 'protocol' | 'sourcePort' | 'port' | 'dscp'>,
): Flow | null {
  const [from, to] = [parseIp(source), parseIp(destination)];
  return from && to && from.version === to.version ? { ...ends, source: from, destination: to } : null;
}

/** An uplink as far as flows are shared among several. */
export interface SharingUplink {
  /** A number from 0 to 4,294,967,295 that no other has. */
  readonly id: number;
  /** 0 or less: it gets none. */
  readonly weight: number;
  readonly down?: boolean;
}

/**
 * The uplink that a flow leaves by: of all that are up each has a number made of the flow and of itself, and the best by its weight gets it (weighted
 * rendezvous hashing; Schindelhauer and Schomaker 2005). Shares are as the weights are, and where one fails only its own flows move.
 * @returns its id and score; null where none is up.
 */
export function pickUplink(
  flow: Flow,
  uplinks: readonly SharingUplink[],
): { readonly id: number; readonly score: number } | null {
  let best: { id: number; score: number } | null = null;
  for (const { id, weight, down } of uplinks) {
    if (down || !(weight > 0)) continue;
    const point = (mix32(fnv1a32(keyOf(flow, id))) + 0.5) / 2 ** 32;
    const score = -weight / Math.log(point);
    if (!best || score > best.score || (score === best.score && id < best.id)) best = { id, score };
  }
  return best;
}

function keyOf({ protocol, source, destination, sourcePort, port }: Flow, uplink: number): Uint8Array {
  const octets: number[] = [protocol & 255];
  const put = (value: bigint, count: number): void => {
    for (let i = count - 1; i >= 0; i--) octets.push(Number((value >> BigInt(8 * i)) & 255n));
  };
  for (const { version, value } of [source, destination]) put(value, version === 4 ? 4 : 16);
  put(BigInt(sourcePort), 2);
  put(BigInt(port), 2);
  put(BigInt(uplink), 4);
  return Uint8Array.from(octets);
}

/** How many of so many flows an uplink is expected to get, and by how much that may differ. */
export interface ExpectedShare {
  readonly mean: number;
  /** Standard deviation, in flows (binomial). */
  readonly sigma: number;
}

/** The same of uplinks by their weights. @throws RangeError where a weight is below 0; where all are 0 none gets any. */
export function expectedShares(weights: readonly number[], flows: number): ExpectedShare[] {
  if (weights.some((weight) => !(weight >= 0))) throw new RangeError('no weight is below 0');
  const all = weights.reduce((sum, weight) => sum + weight, 0);
  return weights.map((weight) => {
    const share = all === 0 ? 0 : weight / all;
    return { mean: flows * share, sigma: Math.sqrt(flows * share * (1 - share)) };
  });
}

/** Whether counted flows are shared as asked for, within three standard deviations of each. */
export const isFairlyShared = (counts: readonly number[], weights: readonly number[]): boolean =>
  expectedShares(
    weights,
    counts.reduce((sum, count) => sum + count, 0),
  ).every(({ mean, sigma }, i) => Math.abs(counts[i]! - mean) <= 3 * sigma + 1e-9);

/** Whether counted flows are shared as asked for, all taken together. */
export interface ShareVerdict {
  /** Pearson’s chi-square of the counts, and the bound that it stays below in 997 of 1,000 cases while shares are as asked for. */
  readonly statistic: number;
  readonly bound: number;
  readonly fits: boolean;
  /** Of each how many flows, at least and at most, are no surprise (three standard deviations). */
  readonly ranges: readonly { readonly least: number; readonly most: number }[];
}

/** Standard normal quantile of 0.9973, which three standard deviations to both sides come to. */
const UPPER = 2.7822;

/**
 * Compares counted flows with what was asked for (Pearson 1900). The bound is the quantile by Wilson and Hilferty (1931), good to a percent from one
 * degree of freedom on.
 * @param weights none below 0; an uplink of weight 0 is to have none.
 */
export function shareVerdict(counts: readonly number[], weights: readonly number[]): ShareVerdict {
  const flows = counts.reduce((sum, count) => sum + count, 0);
  const expected = expectedShares(weights, flows);
  const asked = expected.filter(({ mean }) => mean > 0).length;
  const statistic = expected.reduce((sum, { mean }, i) => sum + (mean > 0 ? (counts[i]! - mean) ** 2 / mean : 0), 0);
  const free = Math.max(1, asked - 1);
  const bound = free * (1 - 2 / (9 * free) + UPPER * Math.sqrt(2 / (9 * free))) ** 3;
  const stray = expected.some(({ mean }, i) => mean === 0 && counts[i]! > 0);
  return {
    statistic,
    bound,
    fits: !stray && (asked < 2 || statistic <= bound),
    ranges: expected.map(({ mean, sigma }) => ({
      least: Math.max(0, Math.ceil(mean - 3 * sigma - 1e-9)),
      most: Math.min(flows, Math.floor(mean + 3 * sigma + 1e-9)),
    })),
  };
}

/** Turns by weight, spread evenly (smooth weighted round robin). @returns places in the list, `turns` of them. */
export function smoothTurns(weights: readonly number[], turns: number): number[] {
  const all = weights.reduce((sum, weight) => sum + weight, 0);
  const current = weights.map(() => 0);
  return Array.from({ length: turns }, () => {
    weights.forEach((weight, i) => (current[i]! += weight));
    const best = current.indexOf(Math.max(...current));
    current[best]! -= all;
    return best;
  });
}
