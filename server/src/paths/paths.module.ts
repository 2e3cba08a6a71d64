import type { Stage } from '../stage';
import * as first from './migrations/0029-paths';
import * as courses from './migrations/0030-courses';
import * as firstUplink from './migrations/0031-first-uplink';
import * as hiddenSecrets from './migrations/0032-hidden-secrets';
import * as routerTries from './migrations/0033-router-tries';
import { DrillService } from './drill.service';
import { FailureService } from './failure.service';
import { JoinedService } from './joined.service';
import { TunnelKeys } from './tunnel-keys';
import { FirstUplinkService } from './first-uplink.service';
import { PathBook } from './path-book';
import { PactFile } from './pact-file';
import { PathService } from './path.service';
import { UplinksFile } from './uplinks-file';
import { RehearsalService } from './rehearsal.service';
import { RouteListService } from './route-list.service';
import { RouterTriesService } from './router-tries.service';
import { pathsRoutes } from './paths.routes';

export const paths: Stage = {
  name: 'paths',
  migrations: [first, courses, firstUplink, hiddenSecrets, routerTries],
  heavy: new URL('./paths.heavy.ts', import.meta.url),
  // What became of uplinks is kept for three months; the journal keeps it for good.
  housekeeping: [
    `DELETE FROM path_change WHERE heard_at < now() - interval '90 days'`,
    `DELETE FROM path_drill WHERE at < now() - interval '90 days'`,
    `DELETE FROM path_octets WHERE day < current_date - 100`,
    `DELETE FROM router_try WHERE at < now() - interval '90 days'`,
    `DELETE FROM path_rehearsal_run WHERE at < now() - interval '90 days'`,
  ],
  open: ({ database, drafts, intents, rosters, secrets, lines, commands, heavy, bus, failed }) => {
    const book = new PathBook(database, bus, failed);
    const firsts = new FirstUplinkService(database, intents, rosters, secrets);
    lines.listen({
      first: (device, first) => firsts.said(device, first),
      reported: (speaker, report) => book.reported(speaker, report),
    });
    const paths = new PathService(database, intents, commands);
    const rehearsals = new RehearsalService(database, intents, paths, heavy, bus);
    intents.onLive((siteIds) => void rehearsals.runFor(siteIds).catch(failed));
    return {
      routes: pathsRoutes({
        ...{ paths, rehearsals },
        drills: new DrillService(database, intents, paths, commands, heavy),
        failures: new FailureService(database, intents, heavy, bus),
        files: new UplinksFile(drafts, rosters, paths),
        lists: new RouteListService(drafts, heavy),
        joined: new JoinedService(database, drafts, rosters),
        keys: new TunnelKeys(database, secrets),
        tries: new RouterTriesService(database, intents, rosters, commands, heavy, bus),
        pacts: new PactFile(database, drafts, rosters, secrets),
      }),
      settle: () => book.close(),
    };
  },
};
