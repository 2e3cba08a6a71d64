import type { DraftView } from '@iron-lattice/core/assess';
import { apply, partKeyOf } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { AppError } from '../platform/app-error';
import { changeIntent } from '../platform/database';
import { inForce, lastEdit, nameOf, redoable, togetherWith } from './draft-history';
import type { DraftService } from './draft.service';
import { lookup } from './lookup';
import type { OpenedDraft } from './opened-draft';
import { OperationRow } from './intent.model';

/** Takes edits back and brings them back. Nothing is ever removed: each turn is written down. */
export class UndoService {
  constructor(
    private readonly database: Sequelize,
    private readonly drafts: DraftService,
  ) {}

  /**
   * Takes back what the last press made in the draft; when nothing is left of it, what the last one made that is live, as edits
   * of this draft.
   * @throws AppError `draft.nothing`, or `draft.refused` when a live edit can no longer be taken back.
   */
  undo(id: string, personId: string): Promise<DraftView> {
    return this.turn(id, async (opened, number, transaction) => {
      const last = lastEdit(opened.rows);
      if (!last) return this.revertLive(opened, number, personId, transaction);
      const all = togetherWith(inForce(opened.rows), last).toReversed();
      const together = all.length > 1 ? number : null;
      const marks = all.map(({ inverse, body, madeOn, number: undoes }, i) => ({
        ...{ draftId: id, number: number + i, body: inverse, inverse: body, madeOn, undoes, together, personId },
      }));
      await OperationRow.bulkCreate(marks, { transaction });
      await setUndone(id, true, all, transaction);
      return all.length;
    });
  }

  /** Brings back what was taken back last, unless something was edited since. @throws AppError `draft.nothing`. */
  redo(id: string): Promise<DraftView> {
    return this.turn(id, async ({ rows }, _number, transaction) => {
      const undo = redoable(rows);
      if (!undo) throw nothing();
      const all = togetherWith(rows, undo).filter(({ undone }) => !undone);
      const back = all.flatMap(({ undoes }) => (undoes === null ? [] : [{ number: undoes }]));
      await setUndone(id, true, all, transaction);
      await setUndone(id, false, back, transaction);
      return 1;
    });
  }

  /** @param act does it. It is given the next number, and says how many numbers it used. */
  private async turn(
    id: string,
    act: (opened: OpenedDraft, number: number, transaction: Transaction) => Promise<number>,
  ): Promise<DraftView> {
    const head = await changeIntent(this.database, async (transaction) => {
      const draft = await this.drafts.editable(id, transaction);
      const number = draft.head + 1;
      const head = draft.head + (await act(await this.drafts.open(id, transaction), number, transaction));
      await draft.update({ head }, { transaction });
      return head;
    });
    await this.drafts.told(id, head);
    return this.drafts.get(id);
  }

  private async revertLive(
    opened: OpenedDraft,
    number: number,
    personId: string,
    transaction: Transaction,
  ): Promise<number> {
    const reverted = new Set(inForce(opened.rows).map((row) => row.reverts));
    const targets = await this.lastLive(reverted, transaction);
    if (targets.length === 0) throw nothing();
    const { id: draftId } = opened.draft;
    const together = targets.length > 1 ? number : null;
    let { intent } = opened;
    const edits = targets.map((target, i) => {
      const result = apply(intent, target.inverse, lookup(opened.roster));
      if (!result.ok) {
        const text = `The last edit that is live can no longer be taken back: ${result.flaws[0]!.message}`;
        throw new AppError('draft.refused', text, result.flaws);
      }
      const madeOn = this.drafts.partHash(intent, partKeyOf(target.inverse));
      intent = result.intent;
      const { inverse } = result;
      return {
        ...{ draftId, number: number + i, body: target.inverse, inverse, madeOn },
        ...{ reverts: nameOf(target), together, personId },
      };
    });
    await OperationRow.bulkCreate(edits, { transaction });
    return edits.length;
  }

  /** What the last press made in the newest rolled-out draft and was not taken back already, the last first. */
  private async lastLive(reverted: ReadonlySet<string | null>, transaction: Transaction): Promise<OperationRow[]> {
    const drafts = await this.database.query<{ draft_id: string }>(
      `SELECT draft_id FROM rollout WHERE state IN ('done', 'stopped') ORDER BY revision DESC`,
      { type: QueryTypes.SELECT, transaction },
    );
    for (const { draft_id: draftId } of drafts) {
      const rows = await OperationRow.findAll({ where: { draftId }, order: ['number'], transaction });
      const left = inForce(rows).filter((row) => !reverted.has(nameOf(row)));
      const target = left.at(-1);
      if (target) return togetherWith(left, target).toReversed();
    }
    return [];
  }
}

const setUndone = (
  draftId: string,
  undone: boolean,
  rows: readonly { readonly number: number }[],
  transaction: Transaction,
): Promise<unknown> =>
  OperationRow.update({ undone }, { where: { draftId, number: rows.map(({ number }) => number) }, transaction });

const nothing = (): AppError => new AppError('draft.nothing', 'There is nothing to take back or bring back.');
