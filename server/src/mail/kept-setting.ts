import type { Flaw } from '@iron-lattice/core/base';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { SecretService } from '../intent/secret.service';
import { AppError } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';

/** How something is sent: one row of a table, or none. */
interface Row<F> {
  readonly fields: F;
  readonly sealed: Buffer | null;
  readonly version: number;
}

/** What a setting is. */
export interface Setting<F> {
  /** Its table, and what its secret is sealed as. */
  readonly table: 'mail_setting' | 'text_setting';
  /** `mail` or `texts`: what is journaled and refused begins with it. */
  readonly name: 'mail' | 'texts';
  readonly flawsOf: (fields: F, hasSecret: boolean) => Flaw[];
  /** What the secret is for: it goes nowhere else. */
  readonly secretFor: (fields: F) => string;
  readonly needsSecret: (fields: F) => boolean;
  /** What the journal says of it. */
  readonly noted: (fields: F) => object;
  /** What cannot be done until it is said. */
  readonly none: string;
}

/** How something is sent, with its secret sealed. Beside intent: it acts at once. */
export class KeptSetting<F extends object> {
  constructor(
    private readonly setting: Setting<F>,
    private readonly database: Sequelize,
    private readonly secrets: SecretService,
    private readonly bus: Bus,
  ) {}

  async view(): Promise<{ readonly fields: F; readonly version: number; readonly hasSecret: boolean } | null> {
    const row = await this.row();
    return row && { fields: row.fields, version: row.version, hasSecret: row.sealed !== null };
  }

  /** @throws AppError `….none`. */
  async open(): Promise<{ readonly fields: F; readonly secret: string | null }> {
    const row = await this.row();
    if (!row) throw new AppError(`${this.setting.name}.none`, this.setting.none);
    const { table } = this.setting;
    return {
      fields: row.fields,
      secret: row.sealed === null ? null : this.secrets.unseal(sealedAs(table), row.sealed),
    };
  }

  /** Keeps it; a secret that is not said anew stays while what it is for does. @throws AppError */
  async set(version: number, fields: F, secret: string | null, personId: string): Promise<void> {
    const { table, name, flawsOf, secretFor, needsSecret, noted } = this.setting;
    const row = await this.row();
    const same = row !== null && secretFor(row.fields) === secretFor(fields);
    const kept = same && needsSecret(fields) ? row.sealed : null;
    const sealed = secret !== null && secret !== '' ? this.secrets.seal(sealedAs(table), secret) : kept;
    const flaws = flawsOf(fields, sealed !== null);
    if (flaws.length > 0) throw new AppError(`${name}.flawed`, flaws[0]!.message, flaws);
    const done = await this.database.query(
      version === 0
        ? `INSERT INTO ${table} (fields, sealed) VALUES (:fields, :sealed) ON CONFLICT DO NOTHING RETURNING version`
        : `UPDATE ${table} SET fields = :fields, sealed = :sealed, version = version + 1 WHERE version = :version RETURNING version`,
      { replacements: { fields: JSON.stringify(fields), sealed, version }, type: QueryTypes.SELECT },
    );
    if (done.length === 0)
      throw new AppError(`${name}.changed`, 'Somebody else changed this just now. Look at it and try again.');
    await note(this.database, personId, `${name}.set`, noted(fields));
    await this.bus.send('live', { type: 'mail' });
  }

  /** Has nothing sent any more. */
  async forget(personId: string): Promise<void> {
    await this.database.query(`DELETE FROM ${this.setting.table}`);
    await note(this.database, personId, `${this.setting.name}.forget`, {});
    await this.bus.send('live', { type: 'mail' });
  }

  private async row(): Promise<Row<F> | null> {
    const [row] = await this.database.query<Row<F>>(`SELECT fields, sealed, version FROM ${this.setting.table}`, {
      type: QueryTypes.SELECT,
    });
    return row ?? null;
  }
}

const sealedAs = (table: Setting<object>['table']): string => (table === 'mail_setting' ? 'mail' : 'texts');
