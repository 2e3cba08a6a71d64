import type { Stage } from '../stage';
import { HitBook } from './hit-book';
import * as first from './migrations/0003-rules';
import { rulesRoutes } from './rules.routes';
import { AWAY } from '../roster/asking-offer';
import { RulesService } from './rules.service';

export const rules: Stage = {
  name: 'rules',
  migrations: [first],
  heavy: new URL('./rules.heavy.ts', import.meta.url),
  open: ({ database, drafts, rosters, intents, heavy, lines, offers, failed }) => {
    const hits = new HitBook(database, (deviceId, error) => lines.misreported(deviceId, error), failed);
    lines.listen({
      reported: async ({ deviceId }, report, told) => {
        if (report.hits) hits.take(deviceId, report.hits, await told());
      },
    });
    const service = new RulesService(database, drafts, rosters, intents, heavy);
    offers.make(AWAY, (led) => service.asking.away(led));
    return {
      routes: rulesRoutes(service),
      settle: () => hits.close(),
    };
  },
};
