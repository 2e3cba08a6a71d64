import { fnv1a32, mix32 } from './hash32';

/** A pool's members in the order a client prefers them: its own first, then where it goes when that is full. */
export interface PoolRank {
  readonly id: number;
  /** Unsigned 32-bit score; the highest wins. */
  readonly score: number;
}

/**
 * Ranks the VLANs of a pool for a client by rendezvous hashing (Thaler & Ravishankar, IEEE/ACM ToN 6(1), 1998):
 * no state, independent of the pool's order, and when a VLAN leaves only its own clients move. FNV-1a alone is
 * too uneven on consecutive MACs, hence the finaliser. Equal scores go to the lower VLAN ID.
 * @param mac 48-bit unsigned integer.
 */
export function rankPool(mac: bigint, pool: readonly number[]): PoolRank[] {
  const key = new Uint8Array(8);
  for (let i = 0; i < 6; i++) key[i] = Number((mac >> BigInt(40 - 8 * i)) & 255n);
  return [...new Set(pool)]
    .map((id) => {
      key[6] = id >> 8;
      key[7] = id & 255;
      return { id, score: mix32(fnv1a32(key)) };
    })
    .sort((a, b) => b.score - a.score || a.id - b.id);
}

/** The VLAN of a pool that a client gets, or null for an empty pool. */
export const pickFromPool = (mac: bigint, pool: readonly number[]): number | null => rankPool(mac, pool)[0]?.id ?? null;
