import { AIR } from '../roster/air-offer';
import { TRACE_WRITERS } from '../roster/client-traces';
import { KEY_LEADS } from '../roster/key-leads-offer';
import { KEYS } from '../roster/key-offer';
import { ROLLOUTS } from '../roster/rollout-offer';
import type { Stage } from '../stage';
import { AirService } from './air.service';
import { RANGE_DAYS } from '@iron-lattice/core/wireless';
import { AirClientService } from './air-client.service';
import { AirRangeService } from './air-range.service';
import { airRoutes } from './air.routes';
import { EstateRadioService } from './estate-radio.service';
import { FactsKeeper } from './facts-keeper';
import * as air from './migrations/0009-air';
import * as rings from './migrations/0010-rings';
import * as range from './migrations/0011-range';
import * as keyClasses from './migrations/0019-key-classes';
import { MasterKeys } from './master-keys';
import { KeyLeads } from './key-leads';
import { KeyListService } from './key-list.service';
import { PlanService } from './plan.service';
import { RadioChangeService } from './radio-change.service';
import { SpeedService } from './speed.service';
import { RecurrenceService } from './recurrence.service';
import { RingLines } from './ring-lines';
import { ringRoutes } from './ring.routes';
import { RingService } from './ring.service';
import { RingUse } from './ring-use';
import { ScanService } from './scan.service';

export const wireless: Stage = {
  name: 'wireless',
  migrations: [air, rings, range, keyClasses],
  heavy: new URL('./wireless.heavy.ts', import.meta.url),
  // Where clients were is kept for a month.
  housekeeping: [
    `DELETE FROM air_visit WHERE at < now() - interval '30 days'`,
    `DELETE FROM air_range WHERE day < current_date - ${RANGE_DAYS}`,
    // Of keys that any number may give, who has not for long is forgotten.
    `DELETE FROM ring_device d USING ring_key k WHERE k.id = d.key_id AND k.most IS NULL AND d.last_at < now() - interval '90 days'`,
  ],
  open: ({ offers, database, drafts, heavy, intents, rosters, secrets, commands, lines, bus, failed }) => {
    const views = new AirService(database, rosters);
    const scans = new ScanService(database, views, rosters, commands, bus, failed);
    offers.make(AIR, (siteIds) => views.facts(siteIds));
    const plans = new PlanService(database, drafts, rosters, views, heavy, bus);
    const speeds = new SpeedService(database, intents, rosters, views, commands, bus);
    const recurrences = new RecurrenceService(
      database,
      intents,
      drafts,
      plans,
      () => offers.take(ROLLOUTS),
      bus,
      failed,
    );
    const estate = new EstateRadioService(database, drafts);
    const clients = new AirClientService(database, rosters, failed);
    const ranges = new AirRangeService(database, failed);
    for (const writer of [clients, ranges]) offers.join(TRACE_WRITERS, writer);
    const keeper = new FactsKeeper(database, views, bus, failed);
    const changes = new RadioChangeService(database, bus);
    const ringLines = new RingLines(database, secrets, lines, bus, failed);
    const ringKeys = new RingService(database, intents, secrets, bus, (ssidId, at) => ringLines.told(ssidId, at));
    const masters = new MasterKeys(database, secrets, heavy, bus, failed);
    const workOut = async (only?: string): Promise<void> => {
      // An empty controller has no rings, and nothing live.
      const rings = only === undefined ? await masters.rings() : [only];
      if (rings.length === 0) return;
      for (const { id, name, ring } of (await intents.live()).intent.estate.ssids)
        if (ring && rings.includes(id)) masters.begin(id, name);
    };
    intents.onLive(() => void workOut().catch(failed));
    offers.make(KEYS, (ssidId, keyId) => ringLines.held(ssidId, keyId));
    const leads = new KeyLeads(database, bus);
    offers.make(KEY_LEADS, (ssidIds) => leads.of(ssidIds));
    const ringUse = new RingUse(ringKeys, (deviceId) => ringLines.of(deviceId), failed);
    lines.listen({
      ringAt: (speaker, frame) => ringLines.at(speaker, frame),
      scanning: async (frame) => scans.progress(frame),
      reported: async (speaker, { radios = [], clients: onAir }) => {
        await changes.reported(speaker, radios);
        keeper.reported(speaker, radios);
        clients.reported(speaker, onAir);
        ranges.reported(speaker, onAir, radios);
        ringUse.reported(speaker, onAir);
      },
    });
    return {
      routes: [
        ...airRoutes(commands, views, scans, plans, speeds, clients, ranges, recurrences, estate, changes),
        ...ringRoutes(
          ringKeys,
          new KeyListService(database, intents, ringKeys, secrets, heavy, masters),
          (ssidId) => void workOut(ssidId).catch(failed),
        ),
      ],
      begin: async () => {
        recurrences.open();
        await workOut();
      },
      end: async () => {
        scans.close();
        keeper.close();
        leads.close();
        await masters.close();
        await recurrences.close();
      },
      settle: async () => {
        await clients.close();
        await ranges.close();
        await ringUse.close();
        await ringLines.close();
      },
    };
  },
};
