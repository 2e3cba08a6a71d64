import { PolicyBook } from '@iron-lattice/core/rules';

/** What this thread knows of the policies it was asked about last. */
export const book = new PolicyBook();
