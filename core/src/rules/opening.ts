import { appliesAtMoment, momentAt, type When } from './moment';

/** Whether hours apply at a moment, and when that becomes another. */
export interface Opening {
  readonly open: boolean;
  /** In milliseconds since 1970; null: not within the time that was looked at. */
  readonly until: number | null;
}

/** Clocks are ahead of UTC by quarters of an hour: whatever begins at half hours of one begins at a quarter of UTC. */
const QUARTER_MS = 15 * 60_000;
/** How far ahead it is looked, in milliseconds: a week and a day, so that every hour of a week was met. */
const AHEAD_MS = 8 * 86_400_000;
/** What was found last, by hours, time zone and quarter: many ask in one. */
const found = new WeakMap<When, Map<string, { readonly quarter: number; readonly opening: Opening }>>();
const MOST_ZONES = 1000;

/**
 * Whether hours apply at a moment by the clock of a time zone, and until when; daylight saving moves with the clock.
 * @param at milliseconds since 1970.
 */
export function openingAt(when: When, timeZone: string, at: number): Opening {
  const quarter = Math.floor(at / QUARTER_MS);
  const zones = found.get(when) ?? new Map<string, { readonly quarter: number; readonly opening: Opening }>();
  found.set(when, zones);
  const known = zones.get(timeZone);
  if (known?.quarter === quarter) return known.opening;
  const applies = (quarters: number): boolean => appliesAtMoment(when, momentAt(quarters * QUARTER_MS, timeZone));
  const open = applies(quarter);
  let next = quarter + 1;
  const last = quarter + AHEAD_MS / QUARTER_MS;
  while (next <= last && applies(next) === open) next++;
  const opening = { open, until: next > last ? null : next * QUARTER_MS };
  if (zones.size >= MOST_ZONES) zones.clear();
  zones.set(timeZone, { quarter, opening });
  return opening;
}
