import type { HeldKey } from '@iron-lattice/core/bench';
import { offer } from '../platform/offers';

/** A key of a ring as APs hold it, without itself; null: there is none, or it was taken back. */
export type KeyTeller = (ssidId: string, keyId: string) => Promise<HeldKey | null>;

/** Keys of rings, for whoever walks with one. */
export const KEYS = offer<KeyTeller>('what keys of rings are');
