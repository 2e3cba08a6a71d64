import type { Stage } from '../stage';
import * as first from './migrations/0029-paths';
import { PathBook } from './path-book';
import { PathService } from './path.service';
import { pathsRoutes } from './paths.routes';

export const paths: Stage = {
  name: 'paths',
  migrations: [first],
  // What became of uplinks is kept for three months; the journal keeps it for good.
  housekeeping: [`DELETE FROM path_change WHERE heard_at < now() - interval '90 days'`],
  open: ({ database, lines, commands, bus, failed }) => {
    const book = new PathBook(database, bus, failed);
    lines.listen({
      reported: (speaker, report) => book.reported(speaker, report),
      left: async (speaker) => book.left(speaker),
    });
    return {
      routes: pathsRoutes(new PathService(database, commands)),
      settle: () => book.close(),
    };
  },
};
