import { randomUUID } from 'node:crypto';
import { foundSite, proposeSiteCode, type EstateView, type NewSite, type SiteView } from '@iron-lattice/core/intake';
import { replay, type Intent } from '@iron-lattice/core/intent';
import type { Sequelize } from 'sequelize';
import { Draft, OperationRow, PartRow, Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { lockIntent } from '../platform/database';
import { note } from '../platform/journal';
import { Device } from './device.model';

const NO_DEVICES: SiteView['devices'] = { expected: 0, calling: 0, 'in step': 0, behind: 0, silent: 0, stuck: 0 };

/** Sites and the estate they belong to. */
export class SiteService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly bus: Bus,
  ) {}

  async estate(): Promise<EstateView> {
    const [estate, live, devices] = await Promise.all([
      this.intents.estate(),
      this.intents.live(),
      Device.findAll({ attributes: { exclude: ['report', 'publicKey'] } }),
    ]);
    const counts = new Map<string | null, Record<string, number>>();
    for (const device of devices) {
      const count = counts.get(device.siteId) ?? { ...NO_DEVICES };
      count[device.state]!++;
      counts.set(device.siteId, count);
    }
    const sites = [...live.intent.sites.values()].map(({ id, name, code, country, timeZone }) => {
      return { id, name, code, country, timeZone, devices: (counts.get(id) ?? NO_DEVICES) as SiteView['devices'] };
    });
    sites.sort((a, b) => a.name.localeCompare(b.name, 'en'));
    const { id, name, liveRevision: revision } = estate;
    return { id, name, revision, sites, calling: counts.get(null)?.['calling'] ?? 0 };
  }

  /** A short form for a name that no site has yet. */
  async proposeCode(name: string): Promise<string> {
    const { intent } = await this.intents.live();
    return proposeSiteCode(
      name,
      [...intent.sites.values()].map((site) => site.code),
    );
  }

  /** @throws AppError `site.refused` with the flaws. */
  async add(wish: NewSite, personId: string): Promise<SiteView> {
    const id = await this.database.transaction(async (transaction) => {
      await lockIntent(this.database, transaction);
      const live = await this.intents.live(transaction);
      const founded = foundSite(await this.withDrafts(live.intent), wish, {
        site: randomUUID(),
        management: randomUUID(),
      });
      if (!founded.ok) throw new AppError('site.refused', founded.flaws[0]!.message, founded.flaws);
      const { part } = founded;
      const hash = this.intents.hash(part);
      await PartRow.bulkCreate([{ hash, body: part }], { ignoreDuplicates: true, transaction });
      await Site.create({ id: part.id, name: part.name, code: part.code, foundingHash: hash }, { transaction });
      await note(this.database, personId, 'site.add', { siteId: part.id, name: part.name }, transaction);
      return part.id;
    });
    await this.bus.send('live', { type: 'site', siteId: id });
    return (await this.estate()).sites.find((site) => site.id === id)!;
  }

  async require(siteId: string): Promise<Site> {
    const site = await Site.findByPk(siteId);
    if (!site) throw unknown('site');
    return site;
  }

  /** The live intent with what open drafts add, so that a new site does not take a subnet somebody planned. */
  private async withDrafts(live: Intent): Promise<Intent> {
    let intent = live;
    for (const draft of await Draft.findAll({ where: { state: ['open', 'rolling-out'] } })) {
      const rows = await OperationRow.findAll({
        where: { draftId: draft.id, undone: false, undoes: null },
        order: ['number'],
      });
      const segments = rows.map((row) => row.body).filter((operation) => operation.type.startsWith('segment.'));
      intent = replay(intent, segments, () => undefined).intent;
    }
    return intent;
  }
}
