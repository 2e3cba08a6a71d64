import { replay, touchedSites, type Intent, type Operation, type RosterLookup } from '@iron-lattice/core/intent';
import { Op, type Transaction } from 'sequelize';
import { inForce } from '../intent/draft-history';
import { lookup } from '../intent/lookup';
import type { OpenedDraft } from '../intent/opened-draft';
import { contestedSites, sitesToTell } from '../intent/draft-sites';
import { OperationRow } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { rosterOf, type RosterService } from '../roster/roster.service';
import { Rollout, RolloutSite } from './rollout.model';

/** Rollouts that may be under way at once. */
const MOST_AT_ONCE = 4;

/**
 * Rollouts that touch no common site go side by side. Each may go back by itself whatever the others do: none builds on what
 * another brings, and their edits come to the same in any order.
 */
export class SideBySide {
  constructor(
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
  ) {}

  /** Why a draft cannot be rolled out beside those under way, in words; null when it can. */
  async against(opened: OpenedDraft, transaction: Transaction): Promise<string | null> {
    const running = await Rollout.findAll({ where: { endedAt: null }, transaction });
    if (running.length >= MOST_AT_ONCE) return `${running.length} rollouts are under way. Wait until one is over.`;
    const [site] = contestedSites(opened);
    if (site !== undefined)
      return `“${opened.held.get(site)}” is being rolled out at ${opened.intent.sites.get(site)!.name}. Wait until that is over, or stop it.`;
    for (const rollout of running)
      if (!(await this.apart(opened, rollout, transaction)))
        return `It builds on what “${rollout.draftName}” brings, which is being rolled out. Wait until that is over.`;
    return null;
  }

  /** The newest without the edits of a rollout that is live at some sites: what goes back leads there. */
  async without(rollout: Rollout, transaction: Transaction): Promise<Intent> {
    let start = rollout.base;
    for (;;) {
      // What was taken back since was part of the newest then.
      const gone = await Rollout.min<number, Rollout>('base', {
        where: { revision: { [Op.lte]: start }, back: { [Op.gt]: start } },
        transaction,
      });
      if (gone === null || gone >= start) break;
      start = gone;
    }
    const others = await Rollout.findAll({
      where: { revision: { [Op.gt]: start }, back: null, id: { [Op.ne]: rollout.id } },
      order: ['revision'],
      transaction,
    });
    const devices = [...(await this.rosters.roster(transaction)), ...(await this.rosters.expected(transaction))];
    const find = lookup(devices.map(rosterOf));
    let intent = await this.intents.at(start, transaction);
    for (const other of others) intent = (await this.with(intent, other, find, transaction)).intent;
    return intent;
  }

  private async apart(opened: OpenedDraft, rollout: Rollout, transaction: Transaction): Promise<boolean> {
    const { live, intent, rows, roster } = opened;
    const mine = inForce(rows).map(({ body }) => body);
    const find = lookup(roster);
    if (rollout.revision !== null)
      return replay(await this.without(rollout, transaction), mine, find).misfits.length === 0;
    const before = await this.with(live.intent, rollout, find, transaction);
    const [after, first] = [await this.with(intent, rollout, find, transaction), replay(before.intent, mine, find)];
    if (after.misfits.length > 0 || first.misfits.length > 0) return false;
    const sites = await RolloutSite.findAll({ where: { rolloutId: rollout.id }, transaction });
    const [told, toTell] = [new Set(sites.map(({ siteId }) => siteId)), new Set(sitesToTell(opened))];
    return (
      !touchedSites(intent, after.intent).some((id) => toTell.has(id)) &&
      !touchedSites(before.intent, first.intent).some((id) => told.has(id))
    );
  }

  private async with(base: Intent, { draftId }: Rollout, find: RosterLookup, transaction: Transaction) {
    const rows = await OperationRow.findAll({ where: { draftId }, order: ['number'], transaction });
    const edits: readonly Operation[] = inForce(rows).map(({ body }) => body);
    return replay(base, edits, find);
  }
}
