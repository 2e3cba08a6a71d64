import { UPDATES } from '../roster/update-offer';
import type { Stage } from '../stage';
import { branchesRoutes } from './branches/branches.routes';
import { BranchesService } from './branches/branches.service';
import { CallCheck } from './call-check';
import { ClaimService } from './claim.service';
import { DeviceChangeService } from './device-change.service';
import { DeviceRowReader } from './device-rows';
import { deviceRoutes } from './device.routes';
import { DeviceService } from './device.service';
import { DriftService } from './drift.service';
import { defineHitches } from './hitch.model';
import { hitchRoutes } from './hitch.routes';
import { HitchService } from './hitch.service';
import { listRoutes } from './list.routes';
import { ListService } from './list.service';
import { placeRoutes } from './place.routes';
import { PlaceService } from './place.service';
import { SheetService } from './sheet.service';
import { siteRoutes } from './site.routes';
import { SiteRemovals } from './site-removals';
import { SiteService } from './site.service';
import * as drift from './migrations/0007-drift';
import { sweepRoutes } from './sweep.routes';
import { SweepService } from './sweep.service';
import { UplinksWithoutAddress } from './uplinks-without-address';

declare module '../platform/bus' {
  interface BusMessages {
    /** A sweep waits to be run, or to be ended. */
    sweep: { id: string; stop: boolean };
  }
}

export const intake: Stage = {
  name: 'intake',
  models: [defineHitches],
  migrations: [drift],
  heavy: new URL('./intake.heavy.ts', import.meta.url),
  housekeeping: [
    // A device that called, is nobody's, and went away: it is known anew when it calls again.
    `WITH gone AS (
       DELETE FROM device d WHERE site_id IS NULL AND expected_site_id IS NULL AND claimed_at IS NULL AND NOT online
         AND heard_at < now() - interval '1 hour' AND NOT EXISTS (SELECT FROM rollout_step s WHERE s.device_id = d.id) RETURNING id)
     DELETE FROM secret s USING gone WHERE s.id = gone.id`,
    `UPDATE hitch SET settled_at = now() WHERE settled_at IS NULL AND device_id IS NULL AND last_at < now() - interval '1 day'`,
    `DELETE FROM hitch WHERE settled_at < now() - interval '90 days'`,
    `DELETE FROM list_preview WHERE at < now() - interval '1 hour'`,
  ],
  open: (ground) => {
    const { config, database, intents, rosters, catalogue, drafts, commands, lines, heavy, bus, failed } = ground;
    const { reviews, secrets } = ground;
    const hitches = new HitchService(database, bus, failed);
    const sheets = new SheetService(database, hitches);
    const sites = new SiteService(database, intents, drafts, bus);
    const rows = new DeviceRowReader(database, catalogue);
    const devices = new DeviceService(database, rows, rosters);
    const updates = {
      startNow: (...of: [readonly string[], string | null]) => ground.offers.take(UPDATES).startNow(...of),
    };
    const claims = new ClaimService(database, intents, rosters, hitches, catalogue, updates, bus, failed);
    const changes = new DeviceChangeService(database, intents, rosters, bus);
    const places = new PlaceService(database, intents, rosters, changes, commands, bus);
    const lists = new ListService(database, intents, sheets, claims, sites, heavy);
    const branches = new BranchesService({
      ...{ database, intents, drafts, reviews, secrets, sites, claims, sheets, heavy, bus },
    });
    const lineAddress = (): string => ground.address().replace('http', 'ws');
    const sweeps = new SweepService(database, commands, bus, config.sweepPort, lineAddress, failed);
    const drifts = new DriftService(database, rosters, drafts, hitches, heavy, (id, frame) => lines.say(id, frame));
    const check = new CallCheck(database, config.strangersAnAddress, sheets, catalogue, hitches, drifts);
    const uplinks = new UplinksWithoutAddress(hitches);
    // It calls again, wherever its line was, and tells how it leaves.
    hitches.onRetry('uplink', async ({ deviceId }) => bus.send('drop', { deviceId: deviceId! }));
    lines.listen({
      reported: (speaker, report) => uplinks.reported(speaker, report),
      left: async ({ deviceId }) => uplinks.forget(deviceId),
      stranger: (hello, from, reason) => check.version(hello, from, reason),
      admits: (hello, known, from) => check.admits(hello, known, from),
      called: (device, hello, now) => check.called(device, hello, now),
      expected: (device) => claims.takeIn(device),
      progress: (frame) => sweeps.progress(frame),
      clock: ({ serial, deviceId }, clock, now) => check.clock(serial, deviceId, clock, now),
      welcomed: async (device) => drifts.ask(device),
      changed: (speaker) => drifts.changed(speaker),
      toldBack: (speaker, frame) => drifts.toldBack(speaker, frame),
      putRight: ({ deviceId, serial }) => drifts.over({ id: deviceId, serial }),
      untaken: ({ serial, deviceId }, what) => check.unreadable(serial, deviceId, what),
    });
    return {
      routes: [
        ...siteRoutes(sites, new SiteRemovals(database, intents, drafts, claims, bus)),
        ...deviceRoutes(devices, rows, claims, changes, drifts, lines),
        ...placeRoutes(places, devices),
        ...hitchRoutes(hitches, sheets),
        ...listRoutes(lists),
        ...branchesRoutes(branches),
        ...sweepRoutes(sweeps),
      ],
      begin: () => sweeps.open(),
      end: () => {
        claims.close();
        hitches.end();
        sweeps.close();
      },
    };
  },
};
