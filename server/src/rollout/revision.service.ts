import {
  compareSite,
  objectChanges,
  type DraftView,
  type IntentComparison,
  type RevisionComparison,
  type SiteComparison,
  type TakeRequest,
  type TakeResult,
} from '@iron-lattice/core/assess';
import {
  apply,
  remade,
  stepsBetween,
  stepsTo,
  touchedSites,
  wordsOf,
  type Intent,
  type Operation,
  type SitePair,
} from '@iron-lattice/core/intent';
import type { RevisionView } from '@iron-lattice/core/rollout';
import { Op } from 'sequelize';
import { inForce } from '../intent/draft-history';
import type { DraftService } from '../intent/draft.service';
import { lookup } from '../intent/lookup';
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
    return { from, to, ...compared(await this.at(from), await this.at(to)) };
  }

  /** Two drafts beside each other. */
  async compareDrafts(from: string, to: string): Promise<IntentComparison> {
    return compared((await this.drafts.open(from)).intent, (await this.drafts.open(to)).intent);
  }

  /** One site in two drafts, with the devices that there are now. */
  async compareDraftsAt(from: string, to: string, siteId: string): Promise<SiteComparison> {
    const [a, b] = [await this.drafts.open(from), await this.drafts.open(to)];
    const devices = await this.rosters.devices(siteId);
    return compareSite(pairOf(a.intent, siteId), pairOf(b.intent, siteId), devices.map(rosterOf));
  }

  /**
   * Makes edits of another draft in this one too, in their order. What clashes is left, unless it is asked for all the same; it
   * is made on what is there now then.
   */
  async take(draftId: string, { from, only, despite = false }: TakeRequest, personId: string): Promise<TakeResult> {
    if (from === draftId) throw new AppError('draft.nothing', 'These are its own edits.');
    const [{ intent, roster, draft }, other] = [await this.drafts.open(draftId), await this.drafts.open(from)];
    const wanted = only && new Set(only);
    const find = lookup(roster);
    let now = intent;
    const operations: Operation[] = [];
    const left: TakeResult['left'][number][] = [];
    for (const { number, body } of inForce(other.rows)) {
      if (wanted && !wanted.has(number)) continue;
      const plain = apply(now, body, find);
      const again = plain.ok ? null : remade(body, now);
      const second = again && apply(now, again, find);
      const done = plain.ok ? plain : despite && second?.ok ? second : null;
      if (done) {
        now = done.intent;
        operations.push(plain.ok ? body : again!);
      } else if (!plain.ok)
        left.push({ number, words: wordsOf(body), why: plain.flaws[0]?.message ?? '', again: second?.ok === true });
    }
    const opened =
      operations.length === 0
        ? await this.drafts.open(draftId)
        : await this.drafts.edit(draftId, { head: draft.head, operations }, personId);
    return { draft: this.drafts.view(opened), taken: operations.length, left };
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

function compared(a: Intent, b: Intent): IntentComparison {
  const sites = touchedSites(a, b).flatMap((siteId) => {
    const [was, is] = [a.sites.get(siteId), b.sites.get(siteId)];
    return was && is ? [{ siteId, name: is.name, objects: was === is ? 0 : stepsBetween(was, is).length }] : [];
  });
  const names = new Map([...b.sites].map(([id, { name }]) => [id, name]));
  return { shared: objectChanges(a.estate, b.estate, () => '', names), sites };
}

function pairOf({ estate, sites }: Intent, siteId: string): SitePair {
  const site = sites.get(siteId);
  if (!site) throw unknown('site');
  return { estate, site };
}
