import type { SearchHit } from '@iron-lattice/core/base';
import { offer } from '../platform/offers';

/** People or their devices of whom something has some words, at most so many. */
export type WordFinder = (words: string, most: number) => Promise<SearchHit[]>;

/** What decides of a user that the controller keeps. */
export interface KeptUser {
  readonly groups: readonly string[];
  readonly until: string | null;
  readonly off: boolean;
}

/** A user, or a device that is let in by its MAC address, by the name it signs in as; null: none is kept. */
export type KeptUserFinder = (name: string) => Promise<KeptUser | null>;

/** A user by name, for whoever asks what somebody would get. */
export const KEPT_USER = offer<KeptUserFinder>('whether a user is kept');

/** Users, for whoever looks for things by name. */
export const USERS = offer<WordFinder>('which users are kept');

/** Clients that were seen, for the same. */
export const CLIENTS = offer<WordFinder>('which clients were seen');

/** Somebody who says who they are by a name and a password, where there is no RADIUS between. */
export interface ProofAsked {
  readonly name: string;
  readonly password: string;
  /** MAC address of what they come with, and the device of ours where that is. */
  readonly mac: string;
  readonly deviceId: string;
  /** IANA name, by whose days a user’s time is over. */
  readonly timeZone: string;
}

/** What comes of it: not right together, a user who is let in no more, too many wrong ones, or not to be said just now. */
export type Proof = 'right' | 'wrong' | 'barred' | 'guessed' | 'later';

/** Whether a name and a password are right, of users that the controller keeps and of its directory. */
export const USER_PROOF = offer<(asked: ProofAsked) => Promise<Proof>>('whether a name and a password are right');
