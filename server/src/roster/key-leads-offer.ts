import type { KeyLead } from '@iron-lattice/core/assess';
import { offer } from '../platform/offers';

/** Where the keys lead that are right, of rings of some SSIDs. */
export type KeyLeadTeller = (ssidIds: readonly string[]) => Promise<readonly KeyLead[]>;

/** Where keys of rings lead, for whoever judges an estate by it. */
export const KEY_LEADS = offer<KeyLeadTeller>('where keys of rings lead');
