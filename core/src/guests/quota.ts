import { quotaDay } from './day-window';

/** What was counted of a guest between two moments, in milliseconds since 1970; both are the same where it was counted at once. */
export interface Counted {
  readonly from: number;
  readonly to: number;
  readonly octets: number;
}

/** What is left of what a guest may take a day. */
export interface QuotaState {
  /** The day it counts to, by the clock of the site. */
  readonly day: string;
  readonly used: number;
  readonly left: number;
  readonly blocked: boolean;
  /** When it begins anew, in milliseconds since 1970. */
  readonly resets: number;
}

/**
 * What is left at a moment. What was counted over midnight counts to both days by time. Another time zone of the site means another day, of the same
 * history: nobody gets a second quota by it.
 * @param quota octets a day.
 */
export function quotaState(timeZone: string, quota: number, counted: readonly Counted[], now: number): QuotaState {
  const { day, start, end } = quotaDay(timeZone, now);
  const used = Math.floor(counted.reduce((sum, each) => sum + octetsWithin(each, start, now), 0));
  return { day, used, left: Math.max(0, quota - used), blocked: used >= quota, resets: end };
}

/** What of a count falls into a stretch of time. */
function octetsWithin({ from, to, octets }: Counted, start: number, now: number): number {
  if (to <= from) return from >= start && from <= now ? octets : 0;
  const within = Math.min(to, now) - Math.max(from, start);
  return within <= 0 ? 0 : octets * (within / (to - from));
}
