import type { Stage } from '../shell/stage';

export const rollout: readonly Stage[] = [
  {
    at: 'site',
    path: 'rollout',
    name: 'Rollout',
    page: () => import('./rollout-page').then((m) => m.RolloutPage),
    shows: 'changes',
    waiting: (store) => {
      const count = store.consequences()?.changes.length ?? 0;
      return count > 0 ? { count, tone: 'info', words: `${count} devices would change` } : undefined;
    },
  },
];
