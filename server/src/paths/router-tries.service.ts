import { linksNow, triedAs, type RouterTried, type RouterTries, type RouterTry } from '@iron-lattice/core/assess';
import { resolve } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import type { CommandService } from '../line/command.service';
import { AppError } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { clock } from '../platform/clock';
import type { Heavy } from '../platform/heavy';
import { rosterOf, type RosterService } from '../roster/roster.service';

/** Tries of one router that go on at the same time, and how long all of them may take. */
const [AT_ONCE, WITHIN_MS] = [6, 45_000];

/** Has devices try what is assumed of routers beside the gateway, and keeps what came of it. */
export class RouterTriesService {
  private readonly running = new Map<string, Promise<RouterTries>>();

  constructor(
    private readonly database: Sequelize,
    private readonly intents: Pick<IntentService, 'pairNow'>,
    private readonly rosters: RosterService,
    private readonly commands: Pick<CommandService, 'ask'>,
    private readonly heavy: Heavy,
    private readonly bus: Bus,
  ) {}

  /** What came of the last tries at a site, by router. */
  async last(siteId: string): Promise<Record<string, RouterTries>> {
    const rows = await this.database.query<{ id: string; at: Date; results: RouterTried[] }>(
      'SELECT router_id AS id, at, results FROM router_try WHERE site_id = :siteId',
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    return Object.fromEntries(rows.map(({ id, at, results }) => [id, { at: at.toISOString(), results }]));
  }

  /** Tries all that is assumed of a router that devices know of; who asks meanwhile is told the same. */
  try(siteId: string, routerId: string): Promise<RouterTries> {
    let run = this.running.get(routerId);
    if (!run)
      this.running.set(routerId, (run = this.run(siteId, routerId).finally(() => this.running.delete(routerId))));
    return run;
  }

  private async run(siteId: string, routerId: string): Promise<RouterTries> {
    const live = await this.intents.pairNow(siteId);
    if (!live?.site.routers?.some(({ id }) => id === routerId))
      throw new AppError('router.not-live', 'Devices know nothing of it yet. Roll it out, then try what is assumed.');
    const devices = await this.rosters.devices(siteId);
    const told = await this.rosters.documents(devices.map(({ runs }) => runs));
    const documents = new Map(
      devices.flatMap(({ id, runs }) => (runs && told.has(runs) ? [[id, told.get(runs)!] as const] : [])),
    );
    const roster = devices.map(rosterOf);
    const links = linksNow(roster, this.rosters.linksAmong(devices));
    const hosts = devices.flatMap(({ report }) => [
      ...(report?.leases ?? []).map(({ address }) => address),
      ...(report?.address ? [report.address] : []),
    ]);
    const site = resolve(live.estate, live.site);
    const tries = await this.heavy.run('router-tries', { site, roster, documents, links, hosts }, routerId);
    const results = await this.all(tries);
    const tried: RouterTries = { at: clock.date().toISOString(), results };
    await this.database.query(
      `INSERT INTO router_try (router_id, site_id, at, results) VALUES (:routerId, :siteId, :at, :results)
       ON CONFLICT (router_id) DO UPDATE SET at = excluded.at, results = excluded.results`,
      { replacements: { routerId, siteId, at: tried.at, results: JSON.stringify(results) } },
    );
    await this.bus.send('live', { type: 'site', siteId });
    return tried;
  }

  private async all(tries: readonly RouterTry[]): Promise<RouterTried[]> {
    const results: RouterTried[] = [];
    const until = Date.now() + WITHIN_MS;
    for (let i = 0; i < tries.length; i += AT_ONCE)
      results.push(
        ...(await Promise.all(tries.slice(i, i + AT_ONCE).map((each) => this.one(each, Date.now() > until)))),
      );
    return results;
  }

  private async one(tried: RouterTry, late: boolean): Promise<RouterTried> {
    const { asked, words } = tried;
    if (!asked) return { words, is: 'unknown', got: tried.why ?? '' };
    if (late) return { words, is: 'unknown', got: 'There was no time left: others did not answer.' };
    try {
      const { deviceId, probe, target } = asked;
      return triedAs(
        tried,
        await this.commands.ask(deviceId, probe ? 'probe' : 'ping', target, probe ? { probe } : {}),
      );
    } catch (error) {
      if (error instanceof AppError) return { words, is: 'unknown', got: error.message };
      throw error;
    }
  }
}
