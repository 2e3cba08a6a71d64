import { randomUUID } from 'node:crypto';
import { checkWindow } from '@iron-lattice/core/firmware';
import {
  copySite,
  deviceState,
  foundSite,
  proposeSiteCode,
  type DeviceState,
  type EstateView,
  type NewSite,
  type SiteChange,
  type SiteView,
} from '@iron-lattice/core/intake';
import {
  replay,
  type EstatePart,
  type Intent,
  type Operation,
  type SharedReach,
  type SitePart,
} from '@iron-lattice/core/intent';
import { LEAVING_STATES, type LeavingState } from '@iron-lattice/core/paths';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import { Draft, OperationRow, PartRow, Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { changeIntent } from '../platform/database';
import { note } from '../platform/journal';

const NO_DEVICES: SiteView['devices'] = { expected: 0, calling: 0, 'in step': 0, behind: 0, silent: 0, stuck: 0 };

/** Sites and the estate they belong to. */
export class SiteService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly drafts: DraftService,
    private readonly bus: Bus,
  ) {}

  async estate(): Promise<EstateView> {
    const [estate, live, counted, drafts, hitches, paths] = await Promise.all([
      this.intents.estate(),
      this.intents.live(),
      this.counts(),
      this.select<{ site: string; count: number }>(
        `SELECT o.body->>'siteId' AS site, count(DISTINCT o.draft_id)::int AS count FROM operation o
         JOIN draft d ON d.id = o.draft_id
         WHERE d.state IN ('open', 'rolling-out') AND NOT o.undone AND o.undoes IS NULL AND o.body ? 'siteId' GROUP BY 1`,
      ),
      this.select<{ site: string; count: number }>(
        `SELECT coalesce(d.site_id, d.expected_site_id) AS site, count(*)::int AS count FROM hitch h
         JOIN device d ON d.id = h.device_id WHERE h.settled_at IS NULL GROUP BY 1`,
      ),
      this.select<{ site: string; states: LeavingState[] }>(
        `SELECT d.site_id AS site, array_agg(DISTINCT n.state) AS states FROM path_now n JOIN device d ON d.id = n.device_id
         WHERE d.site_id IS NOT NULL GROUP BY 1`,
      ),
    ]);
    const rows = new Map((await Site.findAll()).map((row) => [row.id, row]));
    const behind = new Set(live.behind);
    const leaving = new Map(
      paths.map(({ site, states }) => [site, LEAVING_STATES.findLast((each) => states.includes(each))]),
    );
    const countOf = (list: readonly { site: string; count: number }[], id: string): number =>
      list.find((each) => each.site === id)?.count ?? 0;
    const sites = [...live.intent.sites.values()].map(({ id, name, code, country, timeZone }): SiteView => {
      const row = rows.get(id);
      return {
        id,
        name,
        code,
        country,
        timeZone,
        version: row?.version ?? 0,
        address: row?.address ?? '',
        coordinates: row?.coordinates ?? null,
        purpose: row?.purpose ?? '',
        tags: row?.tags ?? [],
        window: row?.updateWindow ?? null,
        devices: counted.get(id) ?? NO_DEVICES,
        drafts: countOf(drafts, id),
        hitches: countOf(hitches, id),
        paths: leaving.get(id) ?? null,
        revision: row?.liveRevision ?? 0,
        behind: behind.has(id),
      };
    });
    sites.sort((a, b) => a.name.localeCompare(b.name, 'en'));
    const { id, name, liveRevision: revision, country, timeZone, updateWindow: window } = estate;
    return { id, name, country, timeZone, window, revision, sites, calling: counted.get(null)?.calling ?? 0 };
  }

  /** Devices by site and state, counted by the database: there may be thousands. */
  private async counts(): Promise<Map<string | null, SiteView['devices']>> {
    const rows = await this.select<{
      site: string | null;
      claimed: boolean;
      online: boolean;
      stuck: boolean;
      right: boolean;
      count: number;
    }>(
      `SELECT CASE WHEN site_id IS NULL AND online THEN NULL ELSE coalesce(site_id, expected_site_id) END AS site,
         site_id IS NOT NULL AS claimed, online, trouble IS NOT NULL AS stuck,
         coalesce(runs = wants, false) AS right, count(*)::int AS count
       FROM device WHERE site_id IS NOT NULL OR expected_site_id IS NOT NULL OR online GROUP BY 1, 2, 3, 4, 5`,
    );
    const counts = new Map<string | null, Record<DeviceState, number>>();
    for (const { site, claimed, online, stuck, right, count } of rows) {
      const counted = counts.get(site) ?? { ...NO_DEVICES };
      const facts = { claimed, online, trouble: stuck ? '' : null, wants: 'a', runs: right ? 'a' : null };
      counted[deviceState(facts)] += count;
      counts.set(site, counted);
    }
    return counts;
  }

  private select<T extends object>(sql: string): Promise<T[]> {
    return this.database.query<T>(sql, { type: QueryTypes.SELECT });
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
    const [id] = await this.addAll([wish], personId);
    return this.view(id!);
  }

  /** Adds sites, all or none. @throws AppError `site.refused` with the flaws of the first that cannot be. */
  async addAll(wishes: readonly NewSite[], personId: string): Promise<string[]> {
    const ids = await changeIntent(this.database, async (transaction) => {
      const live = await this.intents.live(transaction);
      let intent = await this.withDrafts(live.intent, transaction);
      const ids: string[] = [];
      for (const wish of wishes) {
        const part = founded(intent, wish);
        await this.store(live.intent.estate, part, wish, personId, transaction);
        intent = { ...intent, sites: new Map([...intent.sites, [part.id, part]]) };
        ids.push(part.id);
      }
      return ids;
    });
    for (const siteId of ids) await this.bus.send('live', { type: 'site', siteId });
    return ids;
  }

  /**
   * Adds a site with the segments of another, in free address space of its own. SSIDs sent at the other by name are
   * put to the draft for the copy too, so that they are seen before any AP sends them.
   * @throws AppError `site.refused`.
   */
  async copy(wish: NewSite, from: string, personId: string): Promise<SiteView> {
    const { id, source } = await changeIntent(this.database, async (transaction) => {
      const live = await this.intents.live(transaction);
      const source = live.intent.sites.get(from);
      if (!source) throw unknown('site');
      const intent = await this.withDrafts(live.intent, transaction);
      const copied = copySite(intent, founded(intent, wish), source, randomUUID);
      if (!copied) throw new AppError('site.refused', 'No private address space is left for the copied segments.');
      const row = await Site.findByPk(from, { transaction });
      await this.store(live.intent.estate, copied, wish, personId, transaction, row?.updateWindow ?? null);
      return { id: copied.id, source };
    });
    await this.bus.send('live', { type: 'site', siteId: id });
    await this.shareToo(source.id, id, personId);
    return this.view(id);
  }

  /** Changes what is said of a site beside its intent. */
  async change(id: string, { version, ...change }: SiteChange, personId: string): Promise<SiteView> {
    const { address, coordinates, tags, window } = change;
    const purpose = change.purpose.trim();
    const flaws = window === null ? [] : checkWindow(window);
    if (flaws.length > 0) throw new AppError('site.refused', flaws[0]!.message, flaws);
    const site = await this.require(id);
    const [count] = await Site.update(
      { address, coordinates, purpose, tags: [...tags], updateWindow: window, version: version + 1 },
      { where: { id, version } },
    );
    if (count === 0)
      throw new AppError(
        'site.stale',
        `Somebody changed ${site.name} meanwhile: it has the address “${site.address}” and the tags “${site.tags.join(', ')}” now. Save again to put yours in their place.`,
      );
    await note(this.database, personId, 'site.change', { siteId: id, address, coordinates, purpose, tags, window });
    await this.bus.send('live', { type: 'site', siteId: id });
    return this.view(id);
  }

  private async view(id: string): Promise<SiteView> {
    return (await this.estate()).sites.find((site) => site.id === id)!;
  }

  /** Keeps a site that is founded. @param shared what sites share, as it is live. */
  async store(
    shared: EstatePart,
    part: SitePart,
    { address, tags, coordinates = null }: Pick<NewSite, 'address' | 'tags'> & Partial<Pick<Site, 'coordinates'>>,
    personId: string,
    transaction: Transaction,
    updateWindow: Site['updateWindow'] = null,
  ): Promise<void> {
    const hash = this.intents.hash(part);
    await PartRow.bulkCreate([{ hash, body: part }], { ignoreDuplicates: true, transaction });
    const { id, name, code } = part;
    const told = { liveEstate: this.intents.hash(shared), livePart: hash };
    await Site.create(
      { id, name, code, foundingHash: hash, ...told, address, coordinates, tags: [...tags], updateWindow },
      { transaction },
    );
    await note(this.database, personId, 'site.add', { siteId: id, name }, transaction);
  }

  private async shareToo(source: string, copy: string, personId: string): Promise<void> {
    const { draft, intent } = await this.drafts.current();
    if (draft.state !== 'open') return;
    const { estate } = intent;
    const along = ({ reach }: { readonly reach: SharedReach }): SharedReach | null =>
      reach.kind === 'sites' && reach.siteIds.includes(source)
        ? { kind: 'sites', siteIds: [...reach.siteIds, copy] }
        : null;
    const operations = [
      ...estate.ssids.flatMap((ssid): Operation[] => {
        const [reach, here] = [along(ssid), ssid.exceptions?.[source]];
        const from = { ...(reach ? { reach: ssid.reach } : {}), ...(here ? { exceptions: {} } : {}) };
        const to = { ...(reach ? { reach } : {}), ...(here ? { exceptions: { [copy]: here } } : {}) };
        return reach || here ? [{ type: 'ssid.set', ssidId: ssid.id, from, to }] : [];
      }),
      ...(estate.classes ?? []).flatMap((each): Operation[] => {
        const reach = along(each);
        return reach ? [{ type: 'class.set', classId: each.id, from: { reach: each.reach }, to: { reach } }] : [];
      }),
    ];
    if (operations.length > 0) await this.drafts.edit(draft.id, { head: draft.head, operations }, personId);
  }

  async require(siteId: string): Promise<Site> {
    const site = await Site.findByPk(siteId);
    if (!site) throw unknown('site');
    return site;
  }

  /** The live intent with what open drafts add, so that a new site does not take a subnet somebody planned. */
  async withDrafts(live: Intent, transaction?: Transaction): Promise<Intent> {
    const within = transaction ? { transaction } : {};
    let intent = live;
    for (const draft of await Draft.findAll({ where: { state: ['open', 'rolling-out'] }, ...within })) {
      const rows = await OperationRow.findAll({
        where: { draftId: draft.id, undone: false, undoes: null },
        order: ['number'],
        ...within,
      });
      const segments = rows.map((row) => row.body).filter((operation) => operation.type.startsWith('segment.'));
      intent = replay(intent, segments, () => undefined).intent;
    }
    return intent;
  }
}

/** The part a new site begins with. @throws AppError `site.refused`. */
function founded(intent: Intent, wish: NewSite): SitePart {
  const result = foundSite(intent, wish, { site: randomUUID(), management: randomUUID() });
  if (!result.ok) throw new AppError('site.refused', result.flaws[0]!.message, result.flaws);
  return result.part;
}
