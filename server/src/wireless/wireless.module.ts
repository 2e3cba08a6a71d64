import { AIR } from '../roster/air-offer';
import type { Stage } from '../stage';
import { AirService } from './air.service';
import { airRoutes } from './air.routes';
import { FactsKeeper } from './facts-keeper';
import * as air from './migrations/0009-air';
import { PlanService } from './plan.service';
import { RadioChangeService } from './radio-change.service';
import { SpeedService } from './speed.service';
import { ScanService } from './scan.service';

export const wireless: Stage = {
  name: 'wireless',
  migrations: [air],
  heavy: new URL('./wireless.heavy.ts', import.meta.url),
  open: ({ offers, database, drafts, heavy, intents, rosters, commands, lines, bus, failed }) => {
    const views = new AirService(database, rosters);
    const scans = new ScanService(database, views, rosters, commands, bus, failed);
    offers.make(AIR, (siteIds) => views.facts(siteIds));
    const plans = new PlanService(database, drafts, rosters, views, heavy, bus);
    const speeds = new SpeedService(database, intents, rosters, views, commands, bus);
    const keeper = new FactsKeeper(database, views, bus, failed);
    const changes = new RadioChangeService(database);
    lines.listen({
      scanning: async (frame) => scans.progress(frame),
      reported: async (speaker, { radios = [] }) => {
        await changes.reported(speaker, radios);
        keeper.reported(speaker, radios);
      },
    });
    return {
      routes: airRoutes(views, scans, plans, speeds, changes),
      end: () => {
        scans.close();
        keeper.close();
      },
    };
  },
};
