import { mateOf } from '@iron-lattice/core/assess';
import { spokenFor, type RosterDevice } from '@iron-lattice/core/intent';
import type { GatewayPathsView, WorstFailure } from '@iron-lattice/core/paths';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import type { Bus } from '../platform/bus';
import type { Heavy } from '../platform/heavy';
import { Device, ROSTER_FIELDS, rosterDeviceOf } from '../roster/device.model';
import type { KeptPaths } from './path-book';
import type { FailingGateway } from './paths.heavy';

/** Gateways that one task looks at, and tasks at once. */
const [TOGETHER, AT_ONCE] = [40, 2];

/** What becomes of every gateway of the estate, as it is live, when uplinks fail. */
export class FailureService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly heavy: Heavy,
    private readonly bus: Bus,
  ) {}

  /** The worst failure of each gateway. @param most uplinks that fail at once. */
  async worst(most: 1 | 2): Promise<WorstFailure[]> {
    const all = await this.gateways();
    const parts = Array.from({ length: Math.ceil(all.length / TOGETHER) }, (_, i) =>
      all.slice(i * TOGETHER, (i + 1) * TOGETHER),
    );
    const found: WorstFailure[] = [];
    const work = async (): Promise<void> => {
      for (let part = parts.shift(); part; part = parts.shift()) {
        found.push(...(await this.heavy.run('worst-failures', part, most)));
        if (all.length > TOGETHER)
          await this.bus.send('live', { type: 'failures', done: found.length, of: all.length });
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, work));
    return found.sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  private async gateways(): Promise<FailingGateway[]> {
    const [{ intent }, devices, kept] = await Promise.all([
      this.intents.live(),
      Device.findAll({ attributes: [...ROSTER_FIELDS] }),
      this.database.query<{ device_id: string; report: KeptPaths }>('SELECT device_id, report FROM path_now', {
        type: QueryTypes.SELECT,
      }),
    ]);
    const reports = new Map(kept.map(({ device_id: id, report }) => [id, report]));
    const factsOf = (id: string): Pick<GatewayPathsView, 'uplinks'> | null => {
      const report = reports.get(id);
      return report ? { uplinks: report.uplinks.map((one) => ({ ...one, address: null })) } : null;
    };
    const paired = new Set([...intent.sites.values()].flatMap(({ id, pair }) => (pair ? [id] : [])));
    const beside = new Map<string, RosterDevice[]>();
    for (const row of devices)
      if (row.siteId !== null && paired.has(row.siteId))
        beside.set(row.siteId, [...(beside.get(row.siteId) ?? []), rosterDeviceOf(row)]);
    return devices.flatMap((row): FailingGateway[] => {
      const site = row.siteId === null ? undefined : intent.sites.get(row.siteId);
      if (!site || row.hardware?.kind !== 'gateway') return [];
      const { uplinks, leaving, courses } = site;
      const speaking = spokenFor(site.pair, row.id);
      const mine = courses?.filter(({ deviceId }) => speaking.includes(deviceId)) ?? [];
      const device = rosterDeviceOf(row);
      return [
        {
          siteId: site.id,
          site: {
            ...(uplinks ? { uplinks } : {}),
            ...(leaving ? { leaving } : {}),
            ...(mine.length > 0 ? { courses: mine } : {}),
          },
          device,
          facts: factsOf(row.id),
          mate: mateOf(site, beside.get(site.id) ?? [], device, factsOf),
        },
      ];
    });
  }
}
