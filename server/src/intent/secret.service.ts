import { Op, UniqueConstraintError, type Transaction } from 'sequelize';
import { AppError, unknown } from '../platform/app-error';
import type { SecretBox } from '../platform/secret-box';
import { SecretRow } from './intent.model';

/** Secret values behind the references that intent and documents carry. */
export class SecretService {
  constructor(private readonly box: SecretBox) {}

  /** Seals new values. @throws AppError when an id is taken: a reference never changes its value. */
  async add(
    values: Readonly<Record<string, string>>,
    personId: string | null,
    transaction: Transaction,
  ): Promise<void> {
    const rows = Object.entries(values).map(([id, value]) => ({ id, sealed: this.box.seal(id, value), personId }));
    try {
      await SecretRow.bulkCreate(rows, { transaction });
    } catch (error) {
      if (!(error instanceof UniqueConstraintError)) throw error;
      throw new AppError('draft.refused', 'A secret of this id is already kept; use a new id for a new value.');
    }
  }

  /** @throws AppError when nothing is kept under one of the ids. */
  async require(ids: readonly string[], transaction: Transaction): Promise<void> {
    const wanted = [...new Set(ids)];
    const kept = await SecretRow.count({ where: { id: { [Op.in]: wanted } }, transaction });
    if (kept < wanted.length)
      throw new AppError('draft.refused', 'Give the passphrase too: nothing is kept under its reference.');
  }

  async open(ids: readonly string[]): Promise<Record<string, string>> {
    const rows = await SecretRow.findAll({ where: { id: { [Op.in]: [...ids] } } });
    return Object.fromEntries(rows.map((row) => [row.id, this.box.open(row.id, row.sealed)]));
  }

  async openOne(id: string): Promise<string> {
    const value = (await this.open([id]))[id];
    if (value === undefined) throw unknown('secret');
    return value;
  }
}
