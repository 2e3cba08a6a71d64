import { offer } from '../platform/offers';

/** Asks all that a site keeps on the Bench. @returns what did not come out as expected, in words; null where nothing is kept. */
export type SuiteAsker = (siteId: string) => Promise<readonly string[] | null>;

/** What is kept on the Bench, for whoever wants it asked. */
export const SUITES = offer<SuiteAsker>('kept suites');
