import type { DraftReviews } from '../shell/draft-reviews';
import type { Stage } from '../shell/stage';
import type { Waiting } from '../ui/station-line';

const page = () => import('./rollout-page').then((m) => m.RolloutPage);
/** Devices of all sites that the draft would tell something else. */
const changing = (reviews: DraftReviews): Waiting | undefined => {
  const count = reviews.changing();
  const words = count === 1 ? '1 device would change' : `${count} devices would change`;
  return count > 0 ? { count, tone: 'info', words } : undefined;
};

export const rollout: readonly Stage[] = [
  {
    at: 'estate',
    path: 'rollout',
    name: 'Rollout',
    title: 'Rollout, all sites',
    page,
    shows: 'changes',
    waiting: (_estate, reviews) => changing(reviews),
  },
  {
    at: 'site',
    path: 'rollout',
    name: 'Rollout',
    page,
    shows: 'changes',
    waiting: (_site, reviews) => changing(reviews),
  },
];
