import { consequencesOf, type Consequences, type ConsequencesInput } from '@iron-lattice/core/assess';
import type { TasksOf } from '../platform/heavy';
import { book } from './policy-book';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** What a site's draft means. */
    consequences: (input: ConsequencesInput) => Consequences;
  }
}

export const tasks: TasksOf<'consequences'> = { consequences: (input) => consequencesOf(input, book) };
