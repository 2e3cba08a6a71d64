import type { AirFacts } from '@iron-lattice/core/assess';
import { offer } from '../platform/offers';

/** What is known of the air of sites, by their ids; of those whose APs never scanned, nothing. */
export type AirTeller = (siteIds: readonly string[]) => Promise<ReadonlyMap<string, AirFacts>>;

/** What APs heard, for whoever judges a site by it. */
export const AIR = offer<AirTeller>('what is known of the air');
