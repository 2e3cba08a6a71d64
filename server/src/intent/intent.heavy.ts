import {
  consequencesOf,
  mendAll,
  outcomeAt,
  reviewOf,
  type Consequences,
  type ConsequencesInput,
  type MendPlan,
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
    /** What all its mends together would do. */
    mends: (input: Omit<ConsequencesInput, 'told'>) => MendPlan;
  }
}

export const tasks: TasksOf<'consequences' | 'review' | 'mends'> = {
  consequences: (input) => consequencesOf(input, book),
  review: (input) => reviewOf(outcomeAt(input, book)),
  mends: ({ estate, site, ...facts }) => {
    const devices = new Map(facts.roster.map((device) => [device.id, device]));
    const intent = { estate, sites: new Map([[site.id, site]]) };
    return mendAll(intent, facts, site.id, (id) => devices.get(id));
  },
};
