import type { SharedReach } from '@iron-lattice/core/intent';

/** Where something shared applies, in words for a table of one site. */
export function reachWords(reach: SharedReach): string {
  if (reach.kind === 'estate') return 'the whole estate';
  return reach.siteIds.length === 1 ? 'this site' : `${reach.siteIds.length} sites`;
}
