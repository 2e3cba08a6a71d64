import { AIR } from '../roster/air-offer';
import { AWAY } from '../roster/asking-offer';
import { ENTRY } from '../roster/entry-offer';
import { GUEST_FACTS } from '../roster/guest-facts-offer';
import { GUESTS } from '../roster/guest-offer';
import { KEYS, type KeyTeller } from '../roster/key-offer';
import { KEPT_USER } from '../roster/user-offer';
import { SUITES } from '../roster/suite-offer';
import type { Stage } from '../stage';
import { getsRoutes } from './gets.routes';
import { GetsService } from './gets.service';
import * as probes from './migrations/0004-probes';
import { CarriedWalks } from './carried-walk';
import { seatRoutes } from './seat.routes';
import { SeatService } from './seat.service';
import { walkRoutes } from './walk.routes';
import { WalkService } from './walk.service';

export const bench: Stage = {
  name: 'bench',
  migrations: [probes],
  heavy: new URL('./bench.heavy.ts', import.meta.url),
  open: ({ database, drafts, intents, rosters, commands, heavy, bus, offers, failed }) => {
    const keys: KeyTeller = (ssidId, keyId) => offers.take(KEYS)(ssidId, keyId);
    const seats = new SeatService(database, drafts, intents, rosters, commands, heavy, bus, keys);
    offers.make(SUITES, async (siteId) => {
      const run = await seats.run(siteId);
      return run && run.results.filter(({ passed }) => !passed).map(({ words, got }) => `${words}: ${got}`);
    });
    intents.onLive((siteIds) => void seats.runFor(siteIds).catch(failed));
    return {
      routes: [
        ...walkRoutes(
          new WalkService(
            drafts,
            rosters,
            intents,
            (siteIds) => offers.take(AIR)(siteIds),
            keys,
            (question) => offers.take(ENTRY)(question),
            (...asked) => offers.take(GUESTS)(...asked),
            () => offers.take(GUEST_FACTS)(),
            (led) => offers.take(AWAY)(led),
            new CarriedWalks(database),
          ),
        ),
        ...getsRoutes(
          new GetsService(
            drafts,
            rosters,
            heavy,
            (name) => offers.take(KEPT_USER)(name),
            (question) => offers.take(ENTRY)(question),
          ),
        ),
        ...seatRoutes(seats),
      ],
    };
  },
};
