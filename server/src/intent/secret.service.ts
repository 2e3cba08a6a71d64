import { isCommonPassphrase } from '@iron-lattice/core/intent';
import { Op, UniqueConstraintError, type Transaction } from 'sequelize';
import { AppError, unknown } from '../platform/app-error';
import type { SecretBox } from '../platform/secret-box';
import { SecretRow } from './intent.model';

/** Of how many secrets it is remembered how they were judged. */
const MOST_JUDGED = 20_000;

/** Secret values behind the references that intent and documents carry. */
export class SecretService {
  /** Whether a secret is one that guessers try first, by its id. */
  private readonly judged = new Map<string, boolean>();
  /** What tells whether two are the same, by their ids. */
  private readonly prints = new Map<string, string>();

  constructor(private readonly box: SecretBox) {}

  /** Seals new values. @param how.hidden whether nobody is ever shown them. @throws AppError when an id is taken: a reference never changes its value. */
  async add(
    values: Readonly<Record<string, string>>,
    personId: string | null,
    transaction: Transaction,
    { hidden = false }: { readonly hidden?: boolean } = {},
  ): Promise<void> {
    const rows = Object.entries(values).map(([id, value]) => ({
      id,
      sealed: this.box.seal(id, value),
      personId,
      hidden,
    }));
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

  /** What is kept beside the secrets of intent and sealed like them. */
  readonly seal = (id: string, value: string): Buffer => this.box.seal(id, value);
  readonly unseal = (id: string, sealed: Buffer): string => this.box.open(id, sealed);
  /** Tells whether two of one kind are alike without opening them. */
  readonly print = (of: string, value: string): string => this.box.print(of, value);

  async open(ids: readonly string[]): Promise<Record<string, string>> {
    const rows = await SecretRow.findAll({ where: { id: { [Op.in]: [...ids] } } });
    return Object.fromEntries(rows.map((row) => [row.id, this.box.open(row.id, row.sealed)]));
  }

  /** Those of some secrets that guessers try first. A secret never changes under its id, so each is judged once. */
  async commonAmong(ids: readonly string[]): Promise<string[]> {
    if (this.judged.size > MOST_JUDGED) this.judged.clear();
    const unknown = ids.filter((id) => !this.judged.has(id));
    if (unknown.length > 0) {
      for (const [id, value] of Object.entries(await this.open(unknown)))
        this.judged.set(id, isCommonPassphrase(value));
    }
    return ids.filter((id) => this.judged.get(id)).sort();
  }

  /** Those of some secrets that are the same as another of them, in groups. */
  async alikeAmong(ids: readonly string[]): Promise<string[][]> {
    if (ids.length < 2) return [];
    if (this.prints.size > MOST_JUDGED) this.prints.clear();
    const unknown = ids.filter((id) => !this.prints.has(id));
    if (unknown.length > 0) {
      for (const [id, value] of Object.entries(await this.open(unknown)))
        this.prints.set(id, this.print('alike', value));
    }
    const groups = new Map<string, string[]>();
    for (const id of new Set(ids)) {
      const print = this.prints.get(id);
      if (print !== undefined) groups.set(print, [...(groups.get(print) ?? []), id].sort());
    }
    return [...groups.values()].filter(({ length }) => length > 1).sort();
  }

  async openOne(id: string): Promise<string> {
    const value = (await this.open([id]))[id];
    if (value === undefined) throw unknown('secret');
    return value;
  }

  /** A value for somebody who asks to see it. @throws AppError when there is none, or when it is one that nobody is shown. */
  async reveal(id: string): Promise<string> {
    const row = await SecretRow.findByPk(id);
    if (!row) throw unknown('secret');
    if (row.hidden) throw new AppError('secret.hidden', 'This key is told to its device, and shown to nobody.');
    return this.box.open(row.id, row.sealed);
  }
}
