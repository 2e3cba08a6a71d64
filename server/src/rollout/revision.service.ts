import {
  compareSite,
  objectChanges,
  type DraftView,
  type RevisionComparison,
  type SiteComparison,
} from '@iron-lattice/core/assess';
import { stepsBetween, stepsTo, touchedSites, type Intent, type SitePair } from '@iron-lattice/core/intent';
import type { RevisionView } from '@iron-lattice/core/rollout';
import { Op } from 'sequelize';
import { lookup, type DraftService } from '../intent/draft.service';
import { Revision } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import { rosterOf, type RosterService } from '../roster/roster.service';
import { namesOf } from './rollout-view';

/** Revisions that are listed at once. */
const LISTED = 200;

/** What was live before: listed, compared, and taken back to. */
export class RevisionService {
  constructor(
    private readonly intents: IntentService,
    private readonly drafts: DraftService,
    private readonly rosters: RosterService,
  ) {}

  /** Newest first. @param before only those with a smaller number. */
  async list(before?: number): Promise<RevisionView[]> {
    const rows = await Revision.findAll({
      attributes: ['number', 'name', 'personId', 'at', 'moved'],
      ...(before === undefined ? {} : { where: { number: { [Op.lt]: before } } }),
      order: [['number', 'DESC']],
      limit: LISTED,
    });
    const names = await namesOf(rows.map((row) => row.personId));
    return rows.map(({ number, name, personId, at, moved }) => ({
      ...{ number, name, by: names.get(personId) ?? '', at: at.toISOString(), sites: Object.keys(moved).length },
    }));
  }

  /** Two revisions beside each other; 0 is how the estate was founded. */
  async compare(from: number, to: number): Promise<RevisionComparison> {
    const [a, b] = [await this.at(from), await this.at(to)];
    const sites = touchedSites(a, b).flatMap((siteId) => {
      const [was, is] = [a.sites.get(siteId), b.sites.get(siteId)];
      return was && is ? [{ siteId, name: is.name, objects: was === is ? 0 : stepsBetween(was, is).length }] : [];
    });
    const names = new Map([...b.sites].map(([id, { name }]) => [id, name]));
    return { from, to, shared: objectChanges(a.estate, b.estate, () => '', names), sites };
  }

  /** One site in two revisions, with the devices that there are now. */
  async compareSite(from: number, to: number, siteId: string): Promise<SiteComparison> {
    const pairs = [await this.at(from), await this.at(to)].map((intent) => pairOf(intent, siteId));
    const devices = await this.rosters.devices(siteId);
    return compareSite(pairs[0]!, pairs[1]!, devices.map(rosterOf));
  }

  /**
   * Puts into a draft what makes a site, or the whole estate, what it was in a revision. What was edited since stays in the
   * revisions since, and in the draft that is seen, undone or rolled out like any other.
   * @param siteId null: what sites share, and every site that was there then.
   * @throws AppError `draft.nothing` when it stands so already; `draft.refused` when it cannot be so again.
   */
  async back(draftId: string, number: number, siteId: string | null, personId: string): Promise<DraftView> {
    const target = await this.at(number);
    const { intent, roster, draft } = await this.drafts.open(draftId);
    if (siteId !== null && !intent.sites.has(siteId)) throw unknown('site');
    const keys = siteId === null ? ['estate', ...intent.sites.keys()] : [siteId];
    const way = stepsTo(intent, target, keys, lookup(roster));
    const what = number === 0 ? 'as it was founded' : `as in revision ${number}`;
    if (!way.ok)
      throw new AppError('draft.refused', `It cannot be ${what} again: ${way.flaws[0]?.message ?? ''}`, way.flaws);
    if (way.operations.length === 0) throw new AppError('draft.nothing', `It stands ${what} already.`);
    const opened = await this.drafts.edit(draftId, { head: draft.head, operations: way.operations }, personId);
    return this.drafts.view(opened);
  }

  private async at(number: number): Promise<Intent> {
    if (number > 0 && !(await Revision.findByPk(number, { attributes: ['number'] }))) throw unknown('revision');
    return this.intents.at(number);
  }
}

function pairOf({ estate, sites }: Intent, siteId: string): SitePair {
  const site = sites.get(siteId);
  if (!site) throw unknown('site');
  return { estate, site };
}
