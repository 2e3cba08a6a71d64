import type { GuestFacts } from '@iron-lattice/core/assess';
import { offer } from '../platform/offers';

/** What is known of how guests are let in. */
export type GuestFactsTeller = () => Promise<GuestFacts>;

/** How guests are let in, for whoever judges an estate by it. */
export const GUEST_FACTS = offer<GuestFactsTeller>('how guests are let in');
