import type { Intent } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Following } from '../intent/following';
import type { IntentService } from '../intent/intent.service';
import { Device } from '../roster/device.model';
import type { RosterService } from '../roster/roster.service';
import type { SuiteAsker } from '../roster/suite-offer';
import { planOf, RolloutSite, RolloutStep, type Rollout } from './rollout.model';

/** What of a list is told in a reason. */
const NAMED = 3;
const some = (names: readonly string[]): string =>
  `${names.slice(0, NAMED).join(', ')}${names.length > NAMED ? ` and ${names.length - NAMED} more` : ''}`;

/** Whether what must hold between two waves does. */
export class WaveChecks {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly following: Following,
    private readonly rosters: RosterService,
    private readonly suites: () => SuiteAsker,
  ) {}

  /** Clients that access points of sites report now, by site. */
  async clients(siteIds: readonly string[]): Promise<ReadonlyMap<string, number>> {
    if (siteIds.length === 0) return new Map();
    const rows = await this.database.query<{ site: string; clients: number }>(
      `SELECT site_id AS site, coalesce(sum(jsonb_array_length(report->'clients')), 0)::int AS clients FROM device
       WHERE online AND report IS NOT NULL AND site_id IN (:siteIds) GROUP BY 1`,
      { replacements: { siteIds }, type: QueryTypes.SELECT },
    );
    return new Map(siteIds.map((id) => [id, rows.find(({ site }) => site === id)?.clients ?? 0]));
  }

  /** Silent devices of the wave that have not been told yet. */
  async silent(rollout: Rollout): Promise<readonly string[]> {
    const told = await this.told(rollout);
    return told.filter(({ later, right }) => later && !right).map(({ name }) => name);
  }

  /** Why the next wave must not begin, in words; null when all holds that was chosen. */
  async against(rollout: Rollout): Promise<string | null> {
    const { checks } = planOf(rollout);
    const sites = await RolloutSite.findAll({ where: { rolloutId: rollout.id, wave: rollout.wave } });
    if (checks.inStep) {
      const astray = (await this.told(rollout)).filter(({ later, right, online }) => !later && !(right && online));
      if (astray.length > 0) return `Not in step after the wave: ${some(astray.map(({ name }) => name))}.`;
    }
    if (checks.clients !== null) {
      const before = sites.reduce((sum, { clients }) => sum + (clients ?? 0), 0);
      const now = [...(await this.clients(sites.map(({ siteId }) => siteId))).values()].reduce((a, b) => a + b, 0);
      if (now * 100 < before * checks.clients)
        return `${now} of ${before} clients are there after the wave, fewer than ${checks.clients} %.`;
    }
    if (checks.guarantees) {
      const broken = await this.broken(rollout, sites);
      if (broken.length > 0) return `Broken after the wave: ${some(broken)}.`;
    }
    if (checks.suites) {
      const failed: string[] = [];
      for (const { siteId } of sites) failed.push(...((await this.suites()(siteId)) ?? []));
      if (failed.length > 0) return `The suite does not pass after the wave: ${some(failed)}.`;
    }
    return null;
  }

  private async told({ id: rolloutId, wave }: Rollout) {
    const steps = await RolloutStep.findAll({ where: { rolloutId, wave } });
    const devices = await Device.findAll({
      where: { id: steps.map(({ deviceId }) => deviceId) },
      attributes: ['id', 'name', 'runs', 'wants', 'online'],
    });
    const byId = new Map(devices.map((device) => [device.id, device]));
    return steps.flatMap(({ deviceId, state }) => {
      const device = byId.get(deviceId);
      if (!device) return []; // let go meanwhile
      // What it should run may have moved on since: it was renamed, or given an address.
      const right = device.runs !== null && device.runs === device.wants;
      return [{ name: device.name ?? '', later: state === 'later', right, online: device.online }];
    });
  }

  private async broken(rollout: Rollout, sites: readonly RolloutSite[]): Promise<string[]> {
    const accepted = new Set(rollout.accepted.map(({ siteId, words }) => `${siteId} ${words}`));
    const { pairs } = await this.intents.live();
    const broken: string[] = [];
    const told = new Map([...pairs].map(([id, { site }]) => [id, site]));
    for (const { siteId, live } of sites) {
      const pair = live ? pairs.get(siteId) : undefined;
      if (!pair) continue;
      // Of others what their own devices were told: guarantees may reach them.
      const intent: Intent = { estate: pair.estate, sites: told.set(siteId, pair.site) };
      const { guarantees } = await this.following.at(intent, siteId, await this.rosters.devices(siteId));
      for (const { state, words } of guarantees)
        if (state === 'broken' && !accepted.has(`${siteId} ${words}`)) broken.push(`${pair.site.name}: ${words}`);
    }
    return broken;
  }
}
