import type { WeekSpan } from '../rules';

/** When something applies, by the site's clock. */
export interface HoursDocument {
  readonly name: string;
  readonly times: readonly WeekSpan[];
  /** Days on which it does not, such as `2026-12-25`. */
  readonly closed?: readonly string[];
}
