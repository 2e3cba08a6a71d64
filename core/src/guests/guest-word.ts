import { openingAt, type When } from '../rules';
import { quotaDay } from './day-window';
import { quotaState, type Counted } from './quota';

/** What is said of a visit that decides whether its guest is let in. Moments in milliseconds since 1970. */
export interface VisitFacts {
  readonly until: number;
  /** Somebody ended it, or it ended by itself. */
  readonly ended: boolean;
  /** Whether it ended by itself since its guest took nothing for long. */
  readonly idle?: boolean;
  /** When guests are let in at all, by the clock of the site; absent: always. */
  readonly hours?: When | undefined;
  /** When somebody whose time is over is let in again by a press, in milliseconds since 1970; absent: at once. */
  readonly rests?: number | null;
  /** Octets, and seconds, that its device may take a day; null: any. */
  readonly octetsADay: number | null;
  readonly secondsADay: number | null;
  /** Whether it goes on slower where its octets are used up. */
  readonly slows?: boolean;
  /** What its device took, and for how long it was there. */
  readonly counted: readonly (Counted & { readonly seconds: number })[];
}

/**
 * Why somebody is not let in: its time is over, it has to wait after that, it took nothing for long, it has had what there is for a day,
 * or nobody is let in at that hour.
 */
export type WhyOut = 'over' | 'rest' | 'idle' | 'quota' | 'hours';

/** How a guest stands at a moment. */
export interface GuestState {
  readonly letIn: boolean;
  /** Why not. */
  readonly why: WhyOut | null;
  /** Until when it is let in at most. */
  readonly until: number;
  /** Octets that are left today; null: any. */
  readonly left: number | null;
  /** Its octets are used up, and it goes on slower. */
  readonly slowed?: true;
  /** When it may become another by itself: its day begins anew, hours begin or end, or its wait is over; null: never. */
  readonly resets: number | null;
}

/**
 * Whether a guest is let in at a moment, and for how long and how much at most. What counts by day counts by the days of its site.
 * @param timeZone IANA name.
 */
export function guestState(facts: VisitFacts, timeZone: string, now: number): GuestState {
  const { until, ended, octetsADay, secondsADay, counted, hours, rests, idle } = facts;
  const out = { letIn: false, until, left: null };
  const opening = hours ? openingAt(hours, timeZone, now) : null;
  if (opening && !opening.open) return { ...out, why: 'hours', resets: opening.until };
  if (ended || now >= until) {
    if (typeof rests === 'number' && now < rests) return { ...out, why: 'rest', resets: rests };
    return { ...out, why: idle ? 'idle' : 'over', resets: null };
  }
  const closes = opening?.until ?? null;
  const end = closes === null ? until : Math.min(until, closes);
  if (octetsADay === null && secondsADay === null)
    return { letIn: true, why: null, until: end, left: null, resets: closes };
  const resets = quotaDay(timeZone, now).end;
  const data = octetsADay === null ? null : quotaState(timeZone, octetsADay, counted, now);
  const times = counted.map(({ from, to, seconds }) => ({ from, to, octets: seconds }));
  const time = secondsADay === null ? null : quotaState(timeZone, secondsADay, times, now);
  const slowed = (data?.blocked ?? false) && facts.slows === true;
  const spent = ((data?.blocked ?? false) && !slowed) || (time?.blocked ?? false);
  const left = data?.left ?? null;
  if (spent) return { letIn: false, why: 'quota', until, left, resets };
  const here = time ? Math.min(end, now + time.left * 1000) : end;
  const more = slowed ? { slowed: true as const } : {};
  const next = closes === null ? resets : Math.min(resets, closes);
  return { letIn: true, why: null, until: here, left, ...more, resets: next };
}
