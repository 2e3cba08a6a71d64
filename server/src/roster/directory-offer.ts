import type { DirectoryDoubts } from '@iron-lattice/core/assess';
import { offer } from '../platform/offers';

/** What is doubtful of the directory that is asked for users who are not kept here; null: none is asked. */
export type DirectoryTeller = () => Promise<DirectoryDoubts | null>;

export const DIRECTORY = offer<DirectoryTeller>('what is doubtful of the directory');
