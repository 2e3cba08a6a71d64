import { randomUUID } from 'node:crypto';
import {
  directoryFlaws,
  macOfName,
  type DirectoryFields,
  type DirectoryHealth,
  type DirectoryTried,
  type DirectoryTry,
  type DirectoryView,
} from '@iron-lattice/core/entry';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { DirectoryDoubts } from '@iron-lattice/core/assess';
import type { KeptUser } from '../../roster/user-offer';
import type { SecretService } from '../../intent/secret.service';
import { after, AppError } from '../../platform/app-error';
import type { Bus } from '../../platform/bus';
import { clock } from '../../platform/clock';
import { Gate } from '../../platform/gate';
import { note } from '../../platform/journal';
import { Recurring } from '../../platform/recurring';
import { DirectoryClient, DirectoryError, type DirectoryAccess } from './directory-client';

declare module '../../platform/bus' {
  interface BusMessages {
    /** The directory is another one, or none: whoever asks it looks again. */
    directory: Record<string, never>;
  }
}

/** How often it is looked at how it fares, in milliseconds. */
const LOOK_MS = 300_000;
/** Tries at the same time, and how many wait. */
const [TRIES, MOST_TRIES_WAITING] = [2, 10];
/** Whom nobody is called: looked for to see whether it answers. */
const NOBODY = 'nobody-of-that-name';

interface Row {
  readonly id: string;
  readonly fields: DirectoryFields;
  readonly sealed: Buffer | null;
  readonly version: number;
  readonly health: DirectoryHealth | null;
}
/** What is to be kept: the version that was seen (0: there was none), and a password of the account; null: as it is. */
export interface DirectoryChange {
  readonly version: number;
  readonly fields: DirectoryFields;
  readonly secret: string | null;
}

/** The directory that is asked for users who are not kept here: beside intent, it acts at once. */
export class DirectoryService {
  private readonly trying = new Gate(TRIES, MOST_TRIES_WAITING, () =>
    after(10, new AppError('controller.busy', 'Others are trying the directory at the moment. Try again in 10 s.')),
  );
  private readonly looking: Recurring;

  constructor(
    private readonly database: Sequelize,
    private readonly secrets: SecretService,
    private readonly bus: Bus,
    failed: (error: unknown) => void,
  ) {
    this.looking = new Recurring(() => this.look(), LOOK_MS, failed);
  }

  begin(): void {
    this.looking.open(10_000);
  }

  async close(): Promise<void> {
    await this.looking.close();
  }

  async view(): Promise<DirectoryView | null> {
    const row = await this.row();
    return row && { fields: row.fields, version: row.version, hasSecret: row.sealed !== null, health: row.health };
  }

  /** What it is asked by; null: none is to be asked. */
  async access(): Promise<DirectoryAccess | null> {
    const row = await this.row();
    return row && { fields: row.fields, secret: this.opened(row) };
  }

  /** What is doubtful of it; null: none is asked. */
  async doubts(): Promise<DirectoryDoubts | null> {
    const row = await this.row();
    if (!row || row.fields.off) return null;
    const { passwords = false, anybody = false } = row.health?.rights ?? {};
    return { passwords, anybody, clear: row.fields.security === 'none' };
  }

  /** Somebody whom it knows, as the controller would let them in; null: nobody is known, or it cannot be said now. */
  async person(name: string): Promise<KeptUser | null> {
    const access = macOfName(name) === null ? await this.access() : null;
    if (!access || access.fields.off) return null;
    const client = new DirectoryClient(access);
    try {
      const found = await client.find(name);
      return found && { groups: found.groups, until: null, off: false };
    } catch {
      return null;
    } finally {
      await client.close();
    }
  }

  /** Keeps what is said of it; a password of the account that is not said anew stays. @throws AppError */
  async set({ version, fields, secret }: DirectoryChange, personId: string): Promise<void> {
    await this.database.transaction(async (transaction) => {
      await this.database.query("SELECT pg_advisory_xact_lock(hashtext('entry-directory'))", { transaction });
      const row = await this.row(transaction);
      if ((row?.version ?? 0) !== version)
        throw new AppError('directory.changed', 'Somebody changed the directory meanwhile. Look at it again.');
      this.refuse(fields, secret, row);
      const id = row?.id ?? randomUUID();
      const kept =
        fields.account === '' ? null : secret === null ? (row?.sealed ?? null) : this.secrets.seal(id, secret);
      await this.database.query(
        `INSERT INTO entry_directory (id, fields, sealed) VALUES (:id, :fields, :kept)
         ON CONFLICT (one) DO UPDATE SET fields = excluded.fields, sealed = excluded.sealed, version = entry_directory.version + 1, health = NULL`,
        { replacements: { id, fields: JSON.stringify(fields), kept }, transaction },
      );
      const { host, port, off } = fields;
      await note(this.database, personId, 'directory.set', { host, port, off }, transaction);
    });
    await this.told();
  }

  /** Asks it no more, and forgets it with its password. */
  async remove(personId: string): Promise<void> {
    await this.database.query('DELETE FROM entry_directory');
    await note(this.database, personId, 'directory.remove', {});
    await this.told();
  }

  /** Asks a directory as it stands on somebody's screen for somebody, and tells all that was asked and answered. Nothing is kept. */
  async try({ fields, secret, name, password }: DirectoryTry): Promise<DirectoryTried> {
    const row = await this.row();
    this.refuse(fields, secret, row);
    // What is kept is said to the host alone that it was kept for: nobody has it told to another.
    const same =
      row &&
      (['host', 'port', 'security', 'authority', 'account'] as const).every((key) => row.fields[key] === fields[key]);
    if (secret === null && fields.account !== '' && !same)
      throw new AppError(
        'directory.refused',
        'Say the account’s password: it is to go elsewhere than the one that is kept.',
        [{ code: 'directory.refused', message: 'Say it anew: it is to go elsewhere.', field: 'secret' }],
      );
    const access = { fields, secret: secret ?? (row ? this.opened(row) : '') };
    return this.trying.run(() => tried(access, name, password));
  }

  /** Looks how it fares, and of what more than the least its account may. */
  private async look(): Promise<void> {
    const row = await this.row();
    if (!row || row.fields.off) return;
    const { fault, words, rights } = await tried({ fields: row.fields, secret: this.opened(row) }, NOBODY, '');
    const health: DirectoryHealth = {
      at: clock.date().toISOString(),
      fault,
      words,
      rights: rights ?? row.health?.rights ?? null,
    };
    await this.keepHealth(row, health);
  }

  private async keepHealth({ version, health: before }: Row, health: DirectoryHealth): Promise<void> {
    await this.database.query('UPDATE entry_directory SET health = :health WHERE version = :version', {
      replacements: { health: JSON.stringify(health), version },
    });
    // Whoever looks is told when it fares otherwise, and not each time that somebody looked.
    const other =
      !before || before.words !== health.words || JSON.stringify(before.rights) !== JSON.stringify(health.rights);
    if (other) await this.bus.send('live', { type: 'users' });
  }

  private refuse(fields: DirectoryFields, secret: string | null, row: Row | null): void {
    const flaws = directoryFlaws(
      fields,
      secret === null || secret === '' ? row?.sealed === undefined || row.sealed === null : false,
    );
    if (flaws.length > 0) throw new AppError('directory.refused', flaws[0]!.message, flaws);
  }

  private opened = ({ id, sealed }: Row): string => (sealed ? this.secrets.unseal(id, sealed) : '');

  private async row(transaction?: Transaction): Promise<Row | null> {
    const [row] = await this.database.query<Row>('SELECT * FROM entry_directory', {
      type: QueryTypes.SELECT,
      ...(transaction ? { transaction } : {}),
    });
    return row ?? null;
  }

  private async told(): Promise<void> {
    await this.bus.send('directory', {});
    await this.bus.send('live', { type: 'users' });
    this.looking.look();
  }
}

/** Asks for somebody, and whether a password is theirs. */
async function tried(access: DirectoryAccess, name: string, password: string): Promise<DirectoryTried> {
  const client = new DirectoryClient(access, true);
  const of = (rest: Partial<DirectoryTried>): DirectoryTried => ({
    ...{ fault: null, words: '', right: null, found: null, rights: null },
    ...rest,
    steps: client.steps,
  });
  try {
    const found = await client.find(name);
    const rights = await client.rights();
    if (!found) return of({ words: `Nobody is found by “${name}”.`, rights });
    const right = password === '' ? null : await client.proves(found.dn, password);
    const words =
      right === null
        ? 'They are found.'
        : right
          ? 'They are found, and the password is theirs.'
          : 'They are found, and the password is not theirs.';
    return of({ words, right, found: { ...found, groups: found.groups.slice(0, 100) }, rights });
  } catch (error) {
    if (!(error instanceof DirectoryError)) throw error;
    return of({ fault: error.fault, words: error.message });
  } finally {
    await client.close();
  }
}
