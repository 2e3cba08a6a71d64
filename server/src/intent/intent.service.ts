import { hashOf } from '@iron-lattice/core/document';
import type { EstatePart, Intent, Part, SitePart } from '@iron-lattice/core/intent';
import { Op, type Transaction } from 'sequelize';
import { AppError } from '../platform/app-error';
import { Estate, PartRow, Revision, Site } from './intent.model';

/** Keeps and assembles the parts of intent. Parts never change under their hash, so they are remembered for good. */
export class IntentService {
  private readonly parts = new Map<string, Part>();
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

  /** The intent that is live, with the number of its revision. */
  async live(transaction?: Transaction): Promise<{ intent: Intent; revision: number }> {
    const estate = await this.estate(transaction);
    const sites = await Site.findAll({ order: ['name'], ...within(transaction) });
    const revision = estate.liveRevision > 0 ? await Revision.findByPk(estate.liveRevision, within(transaction)) : null;
    const hashFor = (key: string, founding: string): string => revision?.parts[key] ?? founding;
    const wanted = new Map(sites.map((site) => [site.id, hashFor(site.id, site.foundingHash)]));
    const estateHash = hashFor('estate', estate.foundingHash);
    const parts = await this.load([estateHash, ...wanted.values()], transaction);
    const intent: Intent = {
      estate: parts.get(estateHash) as EstatePart,
      sites: new Map([...wanted].map(([id, hash]) => [id, parts.get(hash) as SitePart])),
    };
    return { intent, revision: estate.liveRevision };
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
    const rows = entries.map(([, body]) => ({ hash: this.hash(body), body }));
    await PartRow.bulkCreate(rows, { ignoreDuplicates: true, ...within(transaction) });
    return Object.fromEntries(entries.map(([key, body]) => [key, this.hash(body)]));
  }

  private async load(hashes: readonly string[], transaction?: Transaction): Promise<ReadonlyMap<string, Part>> {
    const missing = hashes.filter((hash) => !this.parts.has(hash));
    if (missing.length > 0) {
      for (const row of await PartRow.findAll({ where: { hash: { [Op.in]: missing } }, ...within(transaction) })) {
        this.parts.set(row.hash, row.body);
        this.hashes.set(row.body, row.hash);
      }
    }
    return this.parts;
  }
}

const within = (transaction: Transaction | undefined) => (transaction ? { transaction } : {});
