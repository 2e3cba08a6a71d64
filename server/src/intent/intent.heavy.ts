import {
  consequencesOf,
  outcomeAt,
  reviewOf,
  type Consequences,
  type ConsequencesInput,
  type SiteReview,
} from '@iron-lattice/core/assess';
import type { TasksOf } from '../platform/heavy';
import { book } from './policy-book';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** What a site's draft means. */
    consequences: (input: ConsequencesInput) => Consequences;
    /** As much of it as a look over many sites needs. */
    review: (input: ConsequencesInput) => SiteReview;
  }
}

export const tasks: TasksOf<'consequences' | 'review'> = {
  consequences: (input) => consequencesOf(input, book),
  review: (input) => reviewOf(outcomeAt(input, book)),
};
