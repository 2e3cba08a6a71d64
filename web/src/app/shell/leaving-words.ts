import type { LeavingState } from '@iron-lattice/core/paths';

/** How a gateway or a site leaves, in words. */
export const LEAVING_WORDS: Readonly<Record<LeavingState, string>> = {
  whole: 'as meant',
  lost: 'a path is lost',
  standby: 'on standby',
  none: 'no path is good',
};
