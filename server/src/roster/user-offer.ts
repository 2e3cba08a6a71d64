import type { SearchHit } from '@iron-lattice/core/base';
import { offer } from '../platform/offers';

/** Users that the controller keeps whose name, group or note has some words, at most so many. */
export type UserFinder = (words: string, most: number) => Promise<SearchHit[]>;

/** Users, for whoever looks for things by name. */
export const USERS = offer<UserFinder>('which users are kept');
