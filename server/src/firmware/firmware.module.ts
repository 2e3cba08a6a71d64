import { UPDATES } from '../roster/update-offer';
import type { Stage } from '../stage';
import { defineFirmware } from './firmware.model';
import { firmwareRoutes } from './firmware.routes';
import { UPDATE_LEASE, UpdateRunner } from './update-runner';
import { UpdateService } from './update.service';

declare module '../platform/bus' {
  interface BusMessages {
    /** Whoever holds the device's line: have it fetch and start a release. */
    firmware: { deviceId: string; updateId: string };
    /** Updates may be due; with `policies` because what devices do by themselves changed. */
    'firmware-due': { policies?: true };
  }
}

export const firmware: Stage = {
  name: 'firmware',
  models: [defineFirmware],
  heavy: new URL('./firmware.heavy.ts', import.meta.url),
  open: ({ database, intents, catalogue, bus, lines, lease, heavy, offers, failed }) => {
    const updates = new UpdateService(database, intents, catalogue, bus);
    const runner = new UpdateRunner(database, lease(UPDATE_LEASE), catalogue, updates, lines, bus, failed);
    offers.make(UPDATES, {
      startNow: async (deviceIds, personId) => {
        await updates.start({ deviceIds: [...deviceIds], mode: 'now' }, personId);
      },
    });
    lines.listen({
      called: async (device, { failed: failure }) => {
        await runner.called(device, failure);
        return true;
      },
      firmware: ({ deviceId }, frame) =>
        frame.type === 'firmware-failed'
          ? runner.refused(deviceId, frame.id, frame.reason)
          : runner.progress(deviceId, frame.id, frame.percent, frame.restarting),
    });
    return {
      routes: firmwareRoutes(catalogue, updates, heavy),
      begin: () => runner.open(),
      end: () => runner.close(),
    };
  },
};
