import { parseMac, pickFromPool } from '../address';

/** How the clients of a pool spread over its VLANs. */
export interface PoolSpread {
  readonly counts: readonly { readonly vlan: number; readonly clients: number }[];
  /** Clients that would change their VLAN if the pool became this one. */
  readonly moved: number;
}

/**
 * Spreads clients over a pool by their MAC addresses, each once.
 * @param before the pool's VLANs as they are live, to tell how many clients move.
 */
export function poolSpread(
  macs: readonly string[],
  pool: readonly number[],
  before: readonly number[] = pool,
): PoolSpread {
  const counts = new Map(pool.map((vlan) => [vlan, 0]));
  let moved = 0;
  for (const text of new Set(macs)) {
    const mac = parseMac(text);
    if (mac === null) continue;
    const vlan = pickFromPool(mac, pool);
    if (vlan === null) continue;
    counts.set(vlan, counts.get(vlan)! + 1);
    const old = pickFromPool(mac, before);
    if (old !== null && old !== vlan) moved++;
  }
  return { counts: [...counts].map(([vlan, clients]) => ({ vlan, clients })), moved };
}
