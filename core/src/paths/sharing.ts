import { fnv1a32, mix32, type IpAddress } from '../address';

/** A flow of packets that belong together. */
export interface Flow {
  /** Number of the protocol (IANA). */
  readonly protocol: number;
  readonly source: IpAddress;
  readonly destination: IpAddress;
  /** 0 where the protocol has none. */
  readonly sourcePort: number;
  readonly port: number;
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
