/** What a visit code says of how long and for how many it is right. Moments in milliseconds since 1970. */
export interface VisitTerms {
  /** Its time runs from when it was made, or from when it is first used. */
  readonly runs: 'made' | 'used';
  readonly madeAt: number;
  /** Null: nobody used it yet. */
  readonly usedAt: number | null;
  /** Until when it has to be used first; null: whenever. */
  readonly useBy: number | null;
  readonly seconds: number;
  /** Most devices; null: any number. */
  readonly most: number | null;
  /** MAC addresses of those that used it. */
  readonly devices: readonly string[];
}

/** What a code comes to for a device. `until` is in milliseconds since 1970. */
export type CodeAnswer =
  | { readonly ok: true; readonly until: number }
  | { readonly ok: false; readonly why: 'over' | 'devices' | 'quota'; readonly until: number };

/** Until when a code is right. Elapsed seconds, whatever clocks do meanwhile. */
function untilOf({ runs, madeAt, usedAt, useBy, seconds }: VisitTerms, now: number): number {
  if (runs === 'made') return madeAt + seconds * 1000;
  if (usedAt !== null) return usedAt + seconds * 1000;
  return useBy !== null && now >= useBy ? useBy : now + seconds * 1000;
}

/**
 * What a code comes to for a device at a moment: it is over, as many devices have it as may, or what it may take is used up; in that order.
 * A device that had it before has its place. To take a place has to be one step where it is kept: two may come at once.
 * @param blocked whether what the code may take today is used up.
 */
export function codeAnswer(terms: VisitTerms, mac: string, now: number, blocked = false): CodeAnswer {
  const until = untilOf(terms, now);
  if (now >= until) return { ok: false, why: 'over', until };
  const { devices, most } = terms;
  if (!devices.includes(mac) && most !== null && devices.length >= most) return { ok: false, why: 'devices', until };
  return blocked ? { ok: false, why: 'quota', until } : { ok: true, until };
}
