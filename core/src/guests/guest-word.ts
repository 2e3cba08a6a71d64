import { quotaDay } from './day-window';
import { quotaState, type Counted } from './quota';

/** What is said of a visit that decides whether its guest is let in. Moments in milliseconds since 1970. */
export interface VisitFacts {
  readonly until: number;
  /** Somebody ended it, or it ended by itself. */
  readonly ended: boolean;
  /** Octets, and seconds, that its device may take a day; null: any. */
  readonly octetsADay: number | null;
  readonly secondsADay: number | null;
  /** What its device took, and for how long it was there. */
  readonly counted: readonly (Counted & { readonly seconds: number })[];
}

/** How a guest stands at a moment. */
export interface GuestState {
  readonly letIn: boolean;
  /** Why not. */
  readonly why: 'over' | 'quota' | null;
  /** Until when it is let in at most. */
  readonly until: number;
  /** Octets that are left today; null: any. */
  readonly left: number | null;
  /** When its day begins anew; null: nothing of it counts by day. */
  readonly resets: number | null;
}

/**
 * Whether a guest is let in at a moment, and for how long and how much at most. What counts by day counts by the days of its site.
 * @param timeZone IANA name.
 */
export function guestState(facts: VisitFacts, timeZone: string, now: number): GuestState {
  const { until, ended, octetsADay, secondsADay, counted } = facts;
  const over: GuestState = { letIn: false, why: 'over', until, left: null, resets: null };
  if (ended || now >= until) return over;
  if (octetsADay === null && secondsADay === null) return { letIn: true, why: null, until, left: null, resets: null };
  const resets = quotaDay(timeZone, now).end;
  const data = octetsADay === null ? null : quotaState(timeZone, octetsADay, counted, now);
  const times = counted.map(({ from, to, seconds }) => ({ from, to, octets: seconds }));
  const time = secondsADay === null ? null : quotaState(timeZone, secondsADay, times, now);
  const spent = (data?.blocked ?? false) || (time?.blocked ?? false);
  const left = data?.left ?? null;
  if (spent) return { letIn: false, why: 'quota', until, left, resets };
  const here = time ? Math.min(until, now + time.left * 1000) : until;
  return { letIn: true, why: null, until: here, left, resets };
}
