/** A day as 2026-12-25. */
type Day = string;

const DAY_MS = 86_400_000;
const dayMs = (day: Day): number => Date.parse(`${day}T00:00:00Z`);
const dayText = (ms: number): Day => new Date(ms).toISOString().slice(0, 10);

/** The day on which the month of an allowance began that a day is in. @param anew day of the month, from 1 to 28. */
export function periodStart(day: Day, anew: number): Day {
  const [year, month, date] = day.split('-').map(Number) as [number, number, number];
  return dayText(Date.UTC(year, date >= anew ? month - 1 : month - 2, anew));
}

/** The day on which it begins the next time. */
export function periodEnd(day: Day, anew: number): Day {
  const [year, month] = periodStart(day, anew).split('-').map(Number) as [number, number];
  return dayText(Date.UTC(year, month, anew));
}

/** How an allowance stands. */
export interface AllowanceState {
  /** Share that is used, 1 and more: all of it. */
  readonly share: number;
  /** Gigabytes beyond it. */
  readonly beyond: number;
  /** What these cost. */
  readonly cost: number;
  /** The day on which it is used up, going on as so far; null: not before it begins anew, or it is used up already. */
  readonly until: Day | null;
}

/**
 * How much of an allowance is used.
 * @param used.octets since it began anew, or since they are counted (`since`). @param used.today the day that it is, as 2026-12-25, and `part` of that day which is over, from 0 to 1.
 * @param of.allowance in gigabytes, of 10⁹ octets.
 */
export function allowanceState(
  {
    octets,
    since,
    today,
    part,
  }: { readonly octets: number; readonly since: Day; readonly today: Day; readonly part: number },
  { allowance, anew, price }: { readonly allowance: number; readonly anew: number; readonly price: number | null },
): AllowanceState {
  const used = octets / 1e9;
  const beyond = Math.max(0, used - allowance);
  const start = dayMs(since);
  const days = (dayMs(today) - start) / DAY_MS + part;
  const rate = days > 0 ? used / days : 0;
  const at = rate > 0 && used < allowance ? dayText(start + (allowance / rate) * DAY_MS) : null;
  const until = at !== null && at < periodEnd(today, anew) ? at : null;
  return { share: used / allowance, beyond, cost: beyond * (price ?? 0), until };
}
