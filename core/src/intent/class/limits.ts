import { flaw, type Flaw } from '../../base';
import { capFlaws, plainCaps, type CapPair } from '../../traffic';

/** What clients of a class may take, and for how long. In an edit, null takes a limit away. */
export interface ClassLimits {
  /** Kilobits a second of each client on the air, instead of what its SSID gives each. */
  readonly rate?: CapPair | null;
  /** Minutes after which somebody is sent away, however busy they are; who comes back begins anew. */
  readonly session?: number | null;
  /** Minutes without a frame after which somebody is taken to be gone. */
  readonly idle?: number | null;
  /** Minutes after which servers are asked anew whether somebody still is who they were. */
  readonly again?: number | null;
}

/** Minutes that a time of a class lies between: a week is the longest. */
export const [LEAST_MINUTES, MOST_MINUTES] = [1, 10_080];

export const CLASS_TIMES = ['session', 'idle', 'again'] as const;

/** What is wrong with the limits of a class. */
export function limitFlaws(limits: ClassLimits): Flaw[] {
  const rates = capFlaws({ client: limits.rate ?? null }, 'leave the class out of the SSID instead');
  const times = CLASS_TIMES.flatMap((field) => {
    const minutes = limits[field] ?? null;
    const fits = minutes === null || (Number.isInteger(minutes) && minutes >= LEAST_MINUTES && minutes <= MOST_MINUTES);
    return fits
      ? []
      : [flaw(`class.${field}`, 'Whole minutes, from 1 to 10,080 (a week); empty: without an end.', field)];
  });
  return [...rates.map((each) => ({ ...each, field: each.field?.replace('caps.client.', 'rate.') })), ...times];
}

/** Limits without what says nothing. */
export function plainLimits<L extends ClassLimits>({ rate, ...rest }: L): L {
  if (rate === undefined) return rest as L;
  return { ...rest, rate: plainCaps({ client: rate })?.client ?? null } as L;
}
