import type { Stage } from '../stage';
import { defineRollouts } from './rollout.model';
import { rolloutRoutes } from './rollout.routes';
import { ROLLOUT_LEASE, RolloutService } from './rollout.service';

declare module '../platform/bus' {
  interface BusMessages {
    /** A rollout waits to be run, or to be ended. */
    'rollout-due': { id: string };
  }
}

export const rollout: Stage = {
  name: 'rollout',
  models: [defineRollouts],
  open: ({ config, database, lease, intents, drafts, reviews, rosters, bus, failed }) => {
    const rollouts = new RolloutService(
      database,
      lease(ROLLOUT_LEASE),
      intents,
      drafts,
      reviews,
      rosters,
      bus,
      config.keepWithinSeconds,
      failed,
    );
    return { routes: rolloutRoutes(rollouts), begin: () => rollouts.open(), end: () => rollouts.close() };
  },
};
