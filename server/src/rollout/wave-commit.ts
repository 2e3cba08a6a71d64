import { touchedSites } from '@iron-lattice/core/intent';
import type { RolloutState } from '@iron-lattice/core/rollout';
import { Op, QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import { Draft, Estate, Revision, Site, type SiteStep } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { changeIntent } from '../platform/database';
import { note } from '../platform/journal';
import type { RosterService } from '../roster/roster.service';
import { planOf, Rollout, RolloutSite, RolloutStep } from './rollout.model';
import type { SideBySide } from './side-by-side';
import { clock } from '../platform/clock';

/** How sites become live: with a wave that others follow, with the last one, or because it is stopped there. */
export type CommitHow = 'wave' | 'last' | 'stopped';

/** Why a rollout that had begun cannot become live: what others made live meanwhile leaves no room for it. */
export class Clash extends Error {
  override readonly name = 'Clash';
}

/** Writes down what is live at which site: the one place where pairs, revisions and drafts move, each time in one transaction. */
export class WaveCommit {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
    private readonly drafts: DraftService,
    private readonly side: SideBySide,
  ) {}

  /**
   * Makes a rollout live at sites. The first time, its draft becomes the newest revision; devices claimed meanwhile follow it.
   * @returns ids of devices that should run something else now; null when somebody asked to go back meanwhile.
   * @throws Clash when what others made live meanwhile leaves no room for it.
   */
  commit(rollout: Rollout, siteIds: readonly string[], how: CommitHow): Promise<readonly string[] | null> {
    return changeIntent(this.database, async (transaction) => {
      const now = clock.date();
      const rests = new Date(now.getTime() + planOf(rollout).waitSeconds * 1000);
      const ends: Partial<Record<CommitHow, RolloutState>> = { last: 'done', stopped: 'stopped' };
      const [count] = await Rollout.update(
        how === 'wave' ? { state: 'resting', restUntil: rests } : { state: ends[how]!, endedAt: now, asked: null },
        {
          where: {
            id: rollout.id,
            endedAt: null,
            state: how === 'stopped' ? 'stopping' : 'running',
            asked: { [Op.or]: [null, 'pause', 'stop'] },
          },
          transaction,
        },
      );
      if (count === 0) return null;
      const along = rollout.revision === null ? await this.begin(rollout, transaction) : [];
      const changed = await this.move(rollout, [...siteIds, ...along], transaction);
      const { id: rolloutId, draftId, personId, revision, wave } = rollout;
      if (how === 'wave') {
        await note(this.database, personId, 'rollout.wave', { rolloutId, wave, revision }, transaction);
      } else {
        await Draft.update({ state: 'rolled-out', onRevision: null }, { where: { id: draftId }, transaction });
        await this.drafts.ensure(personId, transaction);
        await note(this.database, personId, `rollout.${ends[how]}`, { rolloutId, revision }, transaction);
      }
      return changed;
    });
  }

  /**
   * Ends a rollout whose devices run what they ran before: its sites stand as they stood, the draft is open again.
   * @returns ids of devices that should run something else now.
   */
  takeBack(rollout: Rollout, reason: string | null): Promise<readonly string[]> {
    return changeIntent(this.database, async (transaction) => {
      const { id: rolloutId, draftId, draftName, personId } = rollout;
      await Rollout.update(
        { state: 'put-back', reason, endedAt: clock.date(), asked: null },
        { where: { id: rolloutId }, transaction },
      );
      const sites = await RolloutSite.findAll({ where: { rolloutId }, transaction });
      const steps: Record<string, SiteStep> = {};
      for (const { siteId, live, beforeEstate, beforePart, beforeRevision } of sites) {
        if (!live) continue;
        const { liveEstate, livePart } = await Site.findByPk(siteId, { rejectOnEmpty: true, transaction });
        const at = clock.date().toISOString();
        steps[siteId] = { from: [liveEstate, livePart], to: [beforeEstate, beforePart], at };
        await Site.update(
          { liveEstate: beforeEstate, livePart: beforePart, liveRevision: beforeRevision },
          { where: { id: siteId }, transaction },
        );
      }
      await RolloutSite.update({ live: false }, { where: { rolloutId }, transaction });
      const changed: string[] = [];
      if (rollout.revision !== null) {
        const parts = await this.intents.store(await this.side.without(rollout, transaction), transaction);
        const { number } = await this.newest(`${draftName}, gone back`, personId, parts, transaction);
        await Revision.update({ moved: steps }, { where: { number }, transaction });
        await rollout.update({ back: number }, { transaction });
        await this.along(transaction);
      }
      const live = await this.intents.live(transaction);
      for (const siteId of await this.toldSites(rolloutId, transaction))
        changed.push(...(await this.rosters.retarget(live.pairs.get(siteId)!, siteId, transaction)));
      await Draft.update(
        { state: 'open', onRevision: null },
        { where: { id: draftId, state: 'rolling-out' }, transaction },
      );
      await this.forgetEmpty(draftId, transaction);
      await note(this.database, null, 'rollout.put-back', { rolloutId, reason }, transaction);
      return changed;
    });
  }

  /**
   * Makes the rollout's draft the newest revision, with what others brought meanwhile.
   * @returns sites where it tells nothing: they go along with the first wave.
   */
  private async begin(rollout: Rollout, transaction: Transaction): Promise<readonly string[]> {
    const { id: rolloutId, draftName, personId, draftId } = rollout;
    const sites = await RolloutSite.findAll({ where: { rolloutId }, transaction });
    const opened = await this.drafts.open(draftId, transaction);
    const { live, intent, misfits, liveRevision: base } = opened;
    if (base !== rollout.base) {
      const mine = new Set(sites.map(({ siteId }) => siteId));
      if (misfits.length > 0 || touchedSites(live.intent, intent).some((id) => !mine.has(id))) throw new Clash();
      await rollout.update({ parts: await this.intents.store(intent, transaction), base }, { transaction });
    }
    const { number } = await this.newest(draftName, personId, rollout.parts, transaction);
    await rollout.update({ revision: number }, { transaction });
    await Draft.update({ onRevision: base }, { where: { id: draftId }, transaction });
    await this.along(transaction);
    return sites.filter(({ wave }) => wave === -1).map(({ siteId }) => siteId);
  }

  private async newest(
    name: string,
    personId: string,
    parts: Record<string, string>,
    transaction: Transaction,
  ): Promise<Revision> {
    const estate = await this.intents.estate(transaction);
    const number = estate.liveRevision + 1;
    const revision = await Revision.create({ number, name, personId, parts }, { transaction });
    await Estate.update({ liveRevision: number }, { where: { id: estate.id }, transaction });
    return revision;
  }

  /** Takes the pairs of sites along for which nothing differs by the newest revision. */
  private async along(transaction: Transaction): Promise<void> {
    const { intent, pairs, revision } = await this.intents.live(transaction);
    const touched = new Set(touchedSites(pairs, intent));
    const left = [...pairs].filter(([id, pair]) => pair.revision !== revision && !touched.has(id));
    await Site.update(
      { liveEstate: this.intents.hash(intent.estate), liveRevision: revision },
      { where: { id: left.map(([id]) => id) }, transaction },
    );
  }

  /** Makes sites follow the rollout's parts. */
  private async move(rollout: Rollout, siteIds: readonly string[], transaction: Transaction): Promise<string[]> {
    if (siteIds.length === 0) return [];
    const { parts, id: rolloutId, revision } = rollout;
    const rows = await Site.findAll({ where: { id: [...siteIds] }, transaction });
    const moved = (await Revision.findByPk(revision!, { rejectOnEmpty: true, transaction })).moved;
    const all = { ...moved };
    for (const site of rows) {
      const [liveEstate, livePart] = [parts['estate']!, parts[site.id]!];
      all[site.id] = {
        from: [site.liveEstate, site.livePart],
        to: [liveEstate, livePart],
        at: clock.date().toISOString(),
      };
      await site.update({ liveEstate, livePart, liveRevision: revision! }, { transaction });
    }
    await Revision.update({ moved: all }, { where: { number: revision! }, transaction });
    await RolloutSite.update({ live: true }, { where: { rolloutId, siteId: [...siteIds] }, transaction });
    await this.along(transaction); // others may have brought something since that says nothing here
    const live = await this.intents.live(transaction);
    const changed: string[] = [];
    for (const { id } of rows) {
      const pair = live.pairs.get(id)!;
      await this.rosters.settleFixed(pair, id, transaction);
      changed.push(...(await this.rosters.retarget(pair, id, transaction)));
    }
    return changed;
  }

  /** Sites where at least one device was told something. */
  private async toldSites(rolloutId: string, transaction: Transaction): Promise<readonly string[]> {
    const steps = await RolloutStep.findAll({
      attributes: ['siteId'],
      where: { rolloutId, state: { [Op.notIn]: ['waiting', 'not-told'] } },
      transaction,
    });
    return [...new Set(steps.flatMap(({ siteId }) => siteId ?? []))];
  }

  /** Drafts begun since in which nothing was done make way for the one that is open again. */
  private async forgetEmpty(draftId: string, transaction: Transaction): Promise<void> {
    await this.database.query(
      `UPDATE draft SET state = 'discarded' WHERE state = 'open' AND id <> :draftId AND head = 0
         AND created_at > (SELECT created_at FROM draft WHERE id = :draftId)`,
      { replacements: { draftId }, type: QueryTypes.UPDATE, transaction },
    );
  }
}
