import { ROLLOUTS } from '../roster/rollout-offer';
import { SUITES } from '../roster/suite-offer';
import type { Stage } from '../stage';
import * as waves from './migrations/0006-waves';
import * as beside from './migrations/0008-side-by-side';
import { defineRollouts } from './rollout.model';
import { RolloutRunner } from './rollout-runner';
import { rolloutRoutes } from './rollout.routes';
import { RevisionService } from './revision.service';
import { RolloutService } from './rollout.service';
import { SideBySide } from './side-by-side';
import { WaveChecks } from './wave-checks';
import { WaveCommit } from './wave-commit';
import { WavePlanner } from './wave-plan';

declare module '../platform/bus' {
  interface BusMessages {
    /** A rollout waits to be run, or something was asked of it. */
    'rollout-due': { id: string };
  }
}

/** Key of the lease under which a rollout is run. */
const ROLLOUT_LEASE = 8_620_003;

export const rollout: Stage = {
  name: 'rollout',
  models: [defineRollouts],
  migrations: [waves, beside],
  open: ({ config, database, lease, heavy, intents, drafts, following, reviews, rosters, bus, offers, failed }) => {
    const checks = new WaveChecks(database, intents, following, rosters, () => offers.take(SUITES));
    const side = new SideBySide(intents, rosters);
    const planner = new WavePlanner(drafts, reviews, rosters, checks, heavy);
    const rollouts = new RolloutService(database, intents, drafts, planner, side, rosters, bus);
    offers.make(ROLLOUTS, async (draftId, personId) => {
      await rollouts.start({ draftId }, personId, '', new AbortController().signal);
    });
    const runner = new RolloutRunner({
      ...{ lease: lease(ROLLOUT_LEASE), intents, rosters, checks, bus, failed },
      keepWithinSeconds: config.keepWithinSeconds,
      commits: new WaveCommit(database, intents, rosters, drafts, side),
      moved: (id) => rollouts.moved(id),
      turned: (each) => rollouts.turned(each),
    });
    return {
      routes: rolloutRoutes(rollouts, new RevisionService(intents, drafts, rosters)),
      begin: () => runner.open(),
      end: () => runner.close(),
    };
  },
};
