import type { DirectoryDoubts, EndingCertificate } from '@iron-lattice/core/assess';
import { offer } from '../platform/offers';

/** What is doubtful of how people are known. */
export interface EntryDoubts {
  /** Of the directory that is asked for users who are not kept here; null: none is asked. */
  readonly directory: DirectoryDoubts | null;
  /** Certificates that end soon. */
  readonly certificates: readonly EndingCertificate[];
  /** The keys of the estate’s authority have 256 bits: a version before made it. */
  readonly shortKeys: boolean;
}
export type EntryDoubtsTeller = () => Promise<EntryDoubts>;

export const ENTRY_DOUBTS = offer<EntryDoubtsTeller>('what is doubtful of how people are known');
