import type { Stage } from '../stage';
import * as probes from './migrations/0004-probes';
import { seatRoutes } from './seat.routes';
import { SeatService } from './seat.service';
import { walkRoutes } from './walk.routes';
import { WalkService } from './walk.service';

export const bench: Stage = {
  name: 'bench',
  migrations: [probes],
  heavy: new URL('./bench.heavy.ts', import.meta.url),
  open: ({ database, drafts, intents, rosters, commands, heavy, bus, failed }) => {
    const seats = new SeatService(database, drafts, intents, rosters, commands, heavy, bus);
    intents.onLive((siteIds) => void seats.runFor(siteIds).catch(failed));
    return { routes: [...walkRoutes(new WalkService(drafts, rosters)), ...seatRoutes(seats)] };
  },
};
