import type { OfSite } from '../kept-list';
import type { Pair } from './pair';

/** What is said of a site’s pair of gateways; null: there is none. */
export interface PairOperation extends OfSite {
  readonly type: 'pair.set';
  readonly from: Pair | null;
  readonly to: Pair | null;
}
