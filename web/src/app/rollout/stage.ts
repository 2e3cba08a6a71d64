import type { Stage } from '../shell/stage';

export const rollout: readonly Stage[] = [
  {
    at: 'site',
    path: 'rollout',
    name: 'Rollout',
    page: () => import('./rollout-page').then((m) => m.RolloutPage),
    shows: 'changes',
    waiting: (_store, reviews) => {
      const count = reviews.changing();
      return count > 0
        ? { count, tone: 'info', words: count === 1 ? '1 device would change' : `${count} devices would change` }
        : undefined;
    },
  },
];
