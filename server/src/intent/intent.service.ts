import { hashOf } from '@iron-lattice/core/document';
import type { EstatePart, Intent, Part, SitePair, SitePart } from '@iron-lattice/core/intent';
import { Op, QueryTypes, type FindOptions, type Transaction } from 'sequelize';
import { AppError, unknown } from '../platform/app-error';
import { Estate, PartRow, Revision, Site, type SiteStep } from './intent.model';

/** What the devices of a site were told, and by which revision. */
export interface LivePair extends SitePair {
  readonly revision: number;
}

/** What is live. */
export interface LiveIntent {
  /** The newest: what the last wave brings everywhere, and what drafts stand on. */
  readonly intent: Intent;
  readonly revision: number;
  /** By site. */
  readonly pairs: ReadonlyMap<string, LivePair>;
  /** Sites whose devices were told something else than the newest. */
  readonly behind: readonly string[];
}

/** Keeps and assembles the parts of intent. Parts never change under their hash, so they are remembered for good. */
export class IntentService {
  private readonly parts = new Map<string, Part>();
  /** Hashes of parts that are there for good: read by nobody who could yet take back that they were written. */
  private readonly kept = new Set<string>();
  private readonly hashes = new WeakMap<Part, string>();
  private readonly afterwards: ((siteIds: readonly string[]) => void)[] = [];

  /** Has something done, in this process, each time that it made a draft live. @param act is given the sites that were told. */
  onLive(act: (siteIds: readonly string[]) => void): void {
    this.afterwards.push(act);
  }

  wentLive(siteIds: readonly string[]): void {
    for (const act of this.afterwards) act(siteIds);
  }

  /** The estate's row; there is one estate a database. */
  async estate(transaction?: Transaction): Promise<Estate> {
    const estate = await Estate.findOne({ ...within(transaction) });
    if (!estate) throw new AppError('estate.none', 'This controller is empty. Set it up first.');
    return estate;
  }

  /** What is live: the newest intent, and what the devices of each site were told. */
  async live(transaction?: Transaction): Promise<LiveIntent> {
    const estate = await this.estate(transaction);
    const sites = await Site.findAll({ ...PAIRS, ...within(transaction) });
    const revision = await this.revisionOf(estate.liveRevision, transaction);
    const hashes = hashesAt(estate, sites, revision);
    const told = sites.flatMap(({ liveEstate, livePart }) => [liveEstate, livePart]);
    const parts = await this.load([...hashes.values(), ...told], transaction);
    const intent = intentOf(hashes, parts);
    const pairs = new Map<string, LivePair>();
    const behind: string[] = [];
    for (const { id, liveEstate, livePart, liveRevision } of sites) {
      const pair = { estate: parts.get(liveEstate) as EstatePart, site: parts.get(livePart) as SitePart };
      pairs.set(id, { ...pair, revision: liveRevision });
      if (pair.estate !== intent.estate || pair.site !== intent.sites.get(id)) behind.push(id);
    }
    return { intent, revision: estate.liveRevision, pairs, behind };
  }

  /** The intent that a revision made live; 0: as it was founded. Sites that were founded later stand as they were founded. */
  async at(number: number, transaction?: Transaction): Promise<Intent> {
    const estate = await this.estate(transaction);
    const sites = await Site.findAll({ ...PAIRS, ...within(transaction) });
    const hashes = hashesAt(estate, sites, await this.revisionOf(number, transaction));
    return intentOf(hashes, await this.load([...hashes.values()], transaction));
  }

  /**
   * What the devices of a site were told at a time before.
   * @param then the number of a revision (0: as it was founded), or a moment in ISO 8601.
   * @throws AppError `thing.unknown` when there is no such revision or site.
   */
  async pairThen(siteId: string, then: string): Promise<LivePair> {
    const [estate, site] = [await this.estate(), await Site.findByPk(siteId)];
    if (!site) throw unknown('site');
    const number = /^\d+$/.test(then) ? Number(then) : null;
    if (number !== null && number > 0 && !(await Revision.findByPk(number, { attributes: ['number'] })))
      throw unknown('revision');
    if (number !== null) {
      const { estate: shared, sites } = await this.at(number);
      return { estate: shared, site: sites.get(siteId)!, revision: number };
    }
    const moment = new Date(then);
    // Revisions of versions that knew no waves moved every site at once.
    const rows = await Revision.sequelize!.query<{
      number: number;
      step: SiteStep | null;
      estate: string | null;
      part: string | null;
    }>(
      `SELECT number, moved->:siteId AS step, parts->>'estate' AS estate, parts->>:siteId AS part FROM revision
       WHERE at <= :moment AND (jsonb_exists(moved, :siteId) OR moved = '{}') ORDER BY number DESC LIMIT 200`,
      { replacements: { siteId, moment: moment.toISOString() }, type: QueryTypes.SELECT },
    );
    for (const { number, step, estate: shared, part } of rows) {
      if (!step) return this.pairOf([shared ?? estate.foundingHash, part ?? site.foundingHash], number);
      if (Date.parse(step.at) <= moment.getTime()) return this.pairOf(step.to, number);
    }
    return this.pairOf([estate.foundingHash, site.foundingHash], 0);
  }

  /** What the devices of a site were told last; null: there is no such site. */
  async pairNow(siteId: string): Promise<LivePair | null> {
    const site = await Site.findByPk(siteId, { attributes: ['liveEstate', 'livePart', 'liveRevision'], raw: true });
    return site && this.pairOf([site.liveEstate, site.livePart], site.liveRevision);
  }

  private async pairOf([estate, site]: readonly [string, string], revision: number): Promise<LivePair> {
    const parts = await this.load([estate, site]);
    return { estate: parts.get(estate) as EstatePart, site: parts.get(site) as SitePart, revision };
  }

  private async revisionOf(number: number, transaction?: Transaction): Promise<Revision | null> {
    return number > 0 ? Revision.findByPk(number, { rejectOnEmpty: true, ...within(transaction) }) : null;
  }

  /** The hash of a part, computed once an object. */
  hash(part: Part): string {
    let hash = this.hashes.get(part);
    if (hash === undefined) this.hashes.set(part, (hash = hashOf(part)));
    return hash;
  }

  /** Stores an intent's parts. @returns their hashes by part key. */
  async store(intent: Intent, transaction?: Transaction): Promise<Record<string, string>> {
    const entries: [string, Part][] = [['estate', intent.estate], ...intent.sites];
    const rows = entries.flatMap(([, body]) => {
      const hash = this.hash(body);
      return this.kept.has(hash) ? [] : [{ hash, body }];
    });
    if (rows.length > 0) await PartRow.bulkCreate(rows, { ignoreDuplicates: true, ...within(transaction) });
    return Object.fromEntries(entries.map(([key, body]) => [key, this.hash(body)]));
  }

  private async load(hashes: readonly string[], transaction?: Transaction): Promise<ReadonlyMap<string, Part>> {
    const missing = hashes.filter((hash) => !this.parts.has(hash));
    if (missing.length > 0) {
      for (const row of await PartRow.findAll({
        where: { hash: { [Op.in]: missing } },
        raw: true,
        ...within(transaction),
      })) {
        this.parts.set(row.hash, row.body);
        this.hashes.set(row.body, row.hash);
        if (!transaction) this.kept.add(row.hash);
      }
    }
    return this.parts;
  }
}

/** What of sites says what is live, as plain rows. */
const PAIRS = {
  attributes: ['id', 'foundingHash', 'liveEstate', 'livePart', 'liveRevision'],
  order: ['name'],
  raw: true,
} satisfies FindOptions;

/** Hashes of the parts of a revision, by part key: the shared one first. */
function hashesAt(estate: Estate, sites: readonly Site[], revision: Revision | null): ReadonlyMap<string, string> {
  const all: [string, string][] = [['estate', estate.foundingHash], ...sites.map(foundingOf)];
  return new Map(all.map(([key, founding]) => [key, revision?.parts[key] ?? founding]));
}

const foundingOf = ({ id, foundingHash }: Site): [string, string] => [id, foundingHash];

function intentOf(hashes: ReadonlyMap<string, string>, parts: ReadonlyMap<string, Part>): Intent {
  const [[, estate], ...sites] = [...hashes] as [[string, string], ...[string, string][]];
  return {
    estate: parts.get(estate) as EstatePart,
    sites: new Map(sites.map(([id, hash]) => [id, parts.get(hash) as SitePart])),
  };
}

const within = (transaction: Transaction | undefined) => (transaction ? { transaction } : {});
