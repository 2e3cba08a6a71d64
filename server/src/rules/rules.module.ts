import type { Stage } from '../stage';
import { HitBook } from './hit-book';
import * as first from './migrations/0003-rules';
import { rulesRoutes } from './rules.routes';
import { RulesService } from './rules.service';

export const rules: Stage = {
  name: 'rules',
  migrations: [first],
  heavy: new URL('./rules.heavy.ts', import.meta.url),
  open: ({ database, drafts, rosters, intents, heavy, lines, failed }) => {
    const hits = new HitBook(database, (deviceId, error) => lines.misreported(deviceId, error), failed);
    lines.listen({
      reported: async ({ deviceId }, report, told) => {
        if (report.hits) hits.take(deviceId, report.hits, await told());
      },
    });
    return {
      routes: rulesRoutes(new RulesService(database, drafts, rosters, intents, heavy)),
      settle: () => hits.close(),
    };
  },
};
