import type { CapDocument } from '../document';
import { burstOctets, CAP_WAYS, type CapPair, type Caps } from '../traffic';

/** A pair of limits as a device is told it. @param parts in how many equal parts it is held. */
export function capDocument(
  pair: CapPair | null | undefined,
  burst: Caps['burst'],
  parts = 1,
): CapDocument | undefined {
  const told = CAP_WAYS.flatMap((way) => {
    const kbps = pair?.[way];
    if (typeof kbps !== 'number') return [];
    const own = Math.max(1, Math.floor(kbps / parts));
    return [[way, { kbps: own, burst: burstOctets(own, burst) }] as const];
  });
  return told.length > 0 ? Object.fromEntries(told) : undefined;
}
