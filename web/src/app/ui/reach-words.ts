import type { SharedReach } from '@iron-lattice/core/intent';
import { counted } from './counted';

/** Where something shared applies, in words. @param one what a single site is called: in a table of that site, this one. */
export function reachWords(reach: SharedReach, one = 'this site'): string {
  if (reach.kind === 'estate') return 'the whole estate';
  if (reach.tag) return `${counted(reach.siteIds.length, 'site')} tagged ${reach.tag}`;
  return reach.siteIds.length === 1 ? one : `${reach.siteIds.length} sites`;
}
