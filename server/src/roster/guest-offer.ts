import type { GuestFact } from '@iron-lattice/core/bench';
import type { Transaction } from 'sequelize';
import { offer } from '../platform/offers';

/** How a client stands at a portal of a site; null: nobody ever let it in there. */
export type GuestTeller = (portalId: string, siteId: string, mac: string) => Promise<GuestFact | null>;

/** Guests, for whoever walks as one. */
export const GUESTS = offer<GuestTeller>('guests');

/** Erases all that is kept of clients as guests; their visits end with that. */
export type GuestEraser = (macs: readonly string[], transaction: Transaction) => Promise<void>;

/** The same for whoever erases clients. */
export const GUESTS_ERASED = offer<GuestEraser>('guests-erased');
