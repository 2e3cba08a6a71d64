import type { WeekSpan } from '../../rules';
import type { Purposed } from '../purpose';

/** Hours of a week under one name, by the clock of whoever they are used at. */
export interface Hours extends Purposed {
  readonly id: string;
  readonly name: string;
  /** When something applies, in half hours; it does not at any other time. */
  readonly times: readonly WeekSpan[];
  /** Days on which it does not apply at all, such as `2026-12-25`, ascending. In an edit, null takes them away. */
  readonly closed?: readonly string[] | null;
}

/** Most hours of an estate, and most days of each on which they do not apply. */
export const [MOST_HOURS, MOST_CLOSED] = [200, 400];
