import type { DraftView } from '@iron-lattice/core/assess';
import { apply, partKeyOf } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { AppError } from '../platform/app-error';
import { changeIntent } from '../platform/database';
import { inForce, lastEdit, nameOf, redoable } from './draft-history';
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
   * Takes back the draft's last edit; when it has none left, the last one that is live, as an edit of this draft.
   * @throws AppError `draft.nothing`, or `draft.refused` when a live edit can no longer be taken back.
   */
  undo(id: string, personId: string): Promise<DraftView> {
    return this.turn(id, async (opened, number, transaction) => {
      const last = lastEdit(opened.rows);
      if (!last) return this.revertLive(opened, number, personId, transaction);
      const { inverse, madeOn } = last;
      const mark = { draftId: id, number, body: inverse, inverse: last.body, madeOn, undoes: last.number, personId };
      await OperationRow.create(mark, { transaction });
      await last.update({ undone: true }, { transaction });
    });
  }

  /** Brings back what was taken back last, unless something was edited since. @throws AppError `draft.nothing`. */
  redo(id: string): Promise<DraftView> {
    return this.turn(id, async ({ rows }, _number, transaction) => {
      const undo = redoable(rows);
      if (!undo) throw nothing();
      await undo.update({ undone: true }, { transaction });
      if (undo.undoes !== null)
        await OperationRow.update({ undone: false }, { where: { draftId: id, number: undo.undoes }, transaction });
    });
  }

  private async turn(
    id: string,
    act: (opened: OpenedDraft, number: number, transaction: Transaction) => Promise<void>,
  ): Promise<DraftView> {
    const head = await changeIntent(this.database, async (transaction) => {
      const draft = await this.drafts.editable(id, transaction);
      const number = draft.head + 1;
      await act(await this.drafts.open(id, transaction), number, transaction);
      await draft.update({ head: number }, { transaction });
      return number;
    });
    await this.drafts.told(id, head);
    return this.drafts.get(id);
  }

  private async revertLive(
    opened: OpenedDraft,
    number: number,
    personId: string,
    transaction: Transaction,
  ): Promise<void> {
    const reverted = new Set(inForce(opened.rows).map((row) => row.reverts));
    const target = await this.lastLive(reverted, transaction);
    if (!target) throw nothing();
    const result = apply(opened.intent, target.inverse, lookup(opened.roster));
    if (!result.ok) {
      const text = `The last edit that is live can no longer be taken back: ${result.flaws[0]!.message}`;
      throw new AppError('draft.refused', text, result.flaws);
    }
    const { id: draftId } = opened.draft;
    const madeOn = this.drafts.partHash(opened.intent, partKeyOf(target.inverse));
    const edit = {
      draftId,
      number,
      body: target.inverse,
      inverse: result.inverse,
      madeOn,
      reverts: nameOf(target),
      personId,
    };
    await OperationRow.create(edit, { transaction });
  }

  /** The newest edit of the newest rolled-out draft that is not among those taken back already. */
  private async lastLive(reverted: ReadonlySet<string | null>, transaction: Transaction): Promise<OperationRow | null> {
    const drafts = await this.database.query<{ draft_id: string }>(
      `SELECT draft_id FROM rollout WHERE state IN ('done', 'stopped') ORDER BY revision DESC`,
      { type: QueryTypes.SELECT, transaction },
    );
    for (const { draft_id: draftId } of drafts) {
      const rows = await OperationRow.findAll({ where: { draftId }, order: ['number'], transaction });
      const target = inForce(rows).findLast((row) => !reverted.has(nameOf(row)));
      if (target) return target;
    }
    return null;
  }
}

const nothing = (): AppError => new AppError('draft.nothing', 'There is nothing to take back or bring back.');
