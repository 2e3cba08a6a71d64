import { randomFillSync, randomUUID } from 'node:crypto';
import { flaw, type SearchHit } from '@iron-lattice/core/base';
import {
  drawPassword,
  isDeviceName,
  MOST_DEVICES_TOLD,
  MOST_REFUSALS_TOLD,
  MOST_USERS,
  normalUser,
  passwordFlaws,
  userFlaws,
  userKey,
  type NewUser,
  type RemovedUser,
  type UserDevice,
  type UserFields,
  type UserRefusal,
  type UserView,
} from '@iron-lattice/core/entry';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { after, AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { Gate } from '../platform/gate';
import { note } from '../platform/journal';
import { likeOf } from '../platform/like';
import { hashPassword, isPassword } from '../platform/password-hash';
import { rowsRefusal } from '../platform/rows-refusal';

declare module '../platform/bus' {
  interface BusMessages {
    /** Users that the controller keeps changed: whoever answers for them looks again. */
    users: { ids: string[] };
  }
}

/** What of a user may be changed, as it was seen and as it is to be. */
export interface UserChange {
  readonly version: number;
  readonly to: Partial<UserFields>;
}
/** What comes of users that are made. */
export interface MadeUsers {
  readonly ids: readonly string[];
  /** Passwords that were drawn, by the place of the user: told this once. */
  readonly drawn: Readonly<Record<number, string>>;
}

interface UserRow {
  id: string;
  name: string;
  groups: string[];
  until: string | null;
  most: number | null;
  off: boolean;
  note: string;
  version: number;
  by: string;
  made_at: Date;
  last_at: Date | null;
}

/** Passwords that are worked out at the same time, how many pieces of work wait, and after how many it is said how far it is. */
const [AT_ONCE, MOST_WAITING, SAID_EACH] = [2, 50, 50];
/** Passwords that are changed: how many are checked at the same time, and wait. */
const [MOST_CHECKED, MOST_CHECKS_WAITING] = [1, 20];
/** Refusals that are looked at for the list: the latest. */
const MOST_REFUSED = 50_000;
/** Users named in one journal entry, and in one message. */
const [MOST_NAMED, MOST_TOLD] = [20, 200];

/** Users that the controller keeps: beside intent, they act at once. */
export class UserService {
  private readonly making = new Gate(1, MOST_WAITING, () =>
    after(10, new AppError('controller.busy', 'Others are making users at the moment. Try again in 10 s.')),
  );
  private readonly checking = new Gate(MOST_CHECKED, MOST_CHECKS_WAITING, () =>
    after(5, new AppError('controller.busy', 'Too many change their passwords at the moment. Try again in 5 s.')),
  );
  /** Checked against where nobody has the name, so that the answer takes as long. */
  private nobody: Promise<string> | null = null;

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
  ) {}

  /** What decides of a user by the name it signs in as; null: none is kept by it. */
  async keptAs(name: string): Promise<{ groups: string[]; until: string | null; off: boolean } | null> {
    const [row] = await this.select<{ groups: string[]; until: string | null; off: boolean }>(
      'SELECT groups, until, off FROM entry_user WHERE key = :key AND removed_at IS NULL',
      { key: userKey(name) },
    );
    return row ?? null;
  }

  /** All of them by name, with the devices they came with. */
  async list(): Promise<UserView[]> {
    const [rows, devices, refusals] = await Promise.all([
      this.select<UserRow>(
        `SELECT u.id, u.name, u.groups, u.until, u.most, u.off, u.note, u.version, u.made_at, u.last_at, p.name AS by
         FROM entry_user u JOIN person p ON p.id = u.person_id WHERE u.removed_at IS NULL ORDER BY u.key LIMIT ${MOST_USERS}`,
      ),
      this.select<{ user_id: string; mac: string; first_at: Date; last_at: Date; where: string | null }>(
        `SELECT d.user_id, d.mac, d.first_at, d.last_at, v.name AS where FROM (
           SELECT *, row_number() OVER (PARTITION BY user_id ORDER BY last_at DESC) AS n FROM entry_user_device) d
         LEFT JOIN device v ON v.id = d.device_id WHERE d.n <= ${MOST_DEVICES_TOLD} ORDER BY d.last_at DESC`,
      ),
      this.select<{ user_id: string; why: string; mac: string; where: string; count: number; last_at: Date }>(
        `SELECT r.user_id, r.why, r.mac, coalesce(v.name, '') AS where, sum(r.count)::int AS count, max(r.last_at) AS last_at
         FROM entry_refusal r JOIN device v ON v.id = r.device_id GROUP BY 1, 2, 3, 4 ORDER BY 6 DESC LIMIT ${MOST_REFUSED}`,
      ),
    ]);
    const refused = new Map<string, { count: number; list: UserRefusal[] }>();
    for (const { user_id: id, last_at: last, count, ...each } of refusals) {
      const before = refused.get(id) ?? { count: 0, list: [] };
      const list =
        before.list.length < MOST_REFUSALS_TOLD
          ? [...before.list, { ...each, count, lastAt: last.toISOString() }]
          : before.list;
      refused.set(id, { count: before.count + count, list });
    }
    const came = new Map<string, UserDevice[]>();
    for (const { user_id: id, mac, first_at: first, last_at: last, where } of devices) {
      const one = { mac, firstAt: first.toISOString(), lastAt: last.toISOString(), where: where ?? '' };
      came.set(id, [...(came.get(id) ?? []), one]);
    }
    return rows.map(({ made_at: at, last_at: last, ...row }) => ({
      ...row,
      at: at.toISOString(),
      lastAt: last?.toISOString() ?? null,
      devices: came.get(row.id) ?? [],
      refused: refused.get(row.id)?.count ?? 0,
      refusals: refused.get(row.id)?.list ?? [],
    }));
  }

  /**
   * Makes users that were looked at, all or none; a password that is empty is drawn.
   * @param said is told how many passwords are worked out. @param left whoever wanted it is gone: nothing is made.
   * @throws AppError `user.refused` with what is wrong, by row.
   */
  async add(
    users: readonly NewUser[],
    personId: string,
    said: (done: number) => void,
    left: AbortSignal,
  ): Promise<MadeUsers> {
    await this.refuseTaken(users);
    return this.making.run(async () => {
      const drawn: Record<number, string> = {};
      const hashes: (string | null)[] = Array.from({ length: users.length }, () => null);
      let done = 0;
      const entries = users.entries();
      const work = async (): Promise<void> => {
        for (const [row, { name, password }] of entries) {
          if (left.aborted) return;
          if (!isDeviceName(name)) {
            const itself = password || (drawn[row] = drawnOne());
            hashes[row] = await hashPassword(itself, password ? 'chosen' : 'drawn');
          }
          if (++done % SAID_EACH === 0) said(done);
        }
      };
      await Promise.all(Array.from({ length: AT_ONCE }, work));
      if (left.aborted) throw new AppError('user.refused', 'It was cancelled: nothing was made.');
      const made = users.map((user, row) => ({
        ...{ id: randomUUID(), key: userKey(user.name), hash: hashes[row], groups: user.groups, name: user.name },
        ...{ until: user.until, most: user.most, off: user.off, note: user.note },
      }));
      await this.database.transaction(async (transaction) => {
        await this.lock(transaction);
        await this.refuseTaken(users, transaction);
        await this.database.query(
          `INSERT INTO entry_user (id, key, name, hash, groups, until, most, off, note, person_id)
           SELECT r.id, r.key, r.name, r.hash, r.groups, r.until, r.most, r.off, r.note, :personId
           FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, key text, name text, hash text, groups text[], until text, most int,
             off boolean, note text)`,
          { replacements: { personId, rows: JSON.stringify(made) }, transaction },
        );
        const names = made.slice(0, MOST_NAMED).map(({ name }) => name);
        await note(this.database, personId, 'user.add', { count: made.length, names }, transaction);
      });
      const ids = made.map(({ id }) => id);
      await this.tell(ids);
      return { ids, drawn };
    });
  }

  /** Changes what is said of a user. @throws AppError `user.changed` where somebody was first. */
  async set(id: string, { version, to }: UserChange, personId: string): Promise<void> {
    await this.database.transaction(async (transaction) => {
      await this.lock(transaction);
      const [row] = await this.select<UserRow & { hash: string | null }>(
        'SELECT * FROM entry_user WHERE id = :id AND removed_at IS NULL',
        { id },
        transaction,
      );
      if (!row) throw unknown('user');
      if (row.version !== version)
        throw new AppError('user.changed', 'Somebody changed this user meanwhile. Look at it again.');
      const { name, groups, until, most, off, note: why } = row;
      const next = normalUser<UserFields>({ ...{ name, groups, until, most, off, note: why }, ...to });
      const flaws = userFlaws(next, null);
      if (flaws.length === 0 && isDeviceName(next.name) !== (row.hash === null))
        flaws.push(
          flaw('user.name-kind', 'A user does not become a device, or a device a user: add another one.', 'name'),
        );
      if (flaws.length > 0) throw new AppError('user.refused', flaws[0]!.message, flaws);
      if (userKey(next.name) !== userKey(name)) await this.refuseTaken([next], transaction);
      await this.database.query(
        `UPDATE entry_user SET key = :key, name = :name, groups = ARRAY(SELECT jsonb_array_elements_text(:groups::jsonb)),
           until = :until, most = :most, off = :off, note = :note, version = version + 1 WHERE id = :id`,
        { replacements: { ...next, groups: JSON.stringify(next.groups), key: userKey(next.name), id }, transaction },
      );
      await note(this.database, personId, 'user.set', { name: next.name, fields: Object.keys(to) }, transaction);
    });
    await this.tell([id]);
  }

  /** Gives a user another password. @param password empty: one is drawn. @returns the one that was drawn; null otherwise. */
  async setPassword(id: string, password: string, personId: string): Promise<string | null> {
    const [row] = await this.select<{ name: string }>(
      'SELECT name FROM entry_user WHERE id = :id AND removed_at IS NULL',
      { id },
    );
    if (!row) throw unknown('user');
    if (isDeviceName(row.name)) throw new AppError('user.refused', 'A device has no password.');
    const drawn = password === '' ? drawnOne() : null;
    const flaws = drawn === null ? passwordFlaws(password, row.name) : [];
    if (flaws.length > 0) throw new AppError('user.refused', flaws[0]!.message, flaws);
    const hash = await this.checking.run(() => hashPassword(drawn ?? password, drawn === null ? 'chosen' : 'drawn'));
    await this.put(id, hash, personId, row.name);
    return drawn;
  }

  /**
   * A user changes their own password, by the one they have.
   * @throws AppError `session.wrong` where name or password is not right, `user.refused` where the new one is none.
   */
  async change(name: string, password: string, next: string): Promise<void> {
    const flaws = passwordFlaws(next, name);
    if (flaws.length === 0 && next === password)
      flaws.push(flaw('user.password-same', 'That is the password you have.', 'password'));
    if (flaws.length > 0) throw new AppError('user.refused', flaws[0]!.message, flaws);
    return this.checking.run(async () => {
      const [row] = await this.select<{ id: string; name: string; hash: string | null; off: boolean }>(
        'SELECT id, name, hash, off FROM entry_user WHERE key = :key AND removed_at IS NULL',
        { key: userKey(name) },
      );
      this.nobody ??= hashPassword(randomUUID());
      const right = await isPassword(row?.hash ?? (await this.nobody), password);
      if (!row?.hash || !right || row.off) throw new AppError('session.wrong', 'The name or the password is wrong.');
      await this.put(row.id, await hashPassword(next), null, row.name, row.hash);
    });
  }

  /** Takes users away; they can be brought back for a day. */
  async remove(ids: readonly string[], personId: string): Promise<void> {
    await this.mark(ids, 'now()', 'removed_at IS NULL', 'user.remove', personId);
  }

  /** Users that were taken away and can be brought back, the latest first. */
  async removed(): Promise<RemovedUser[]> {
    const rows = await this.select<{ id: string; name: string; removed_at: Date }>(
      `SELECT id, name, removed_at FROM entry_user WHERE removed_at IS NOT NULL ORDER BY removed_at DESC, key LIMIT ${MOST_USERS}`,
    );
    return rows.map(({ removed_at: at, ...row }) => ({ ...row, removedAt: at.toISOString() }));
  }

  /** Brings back users that were taken away. @throws AppError `user.refused` where a name is another's by now. */
  async restore(ids: readonly string[], personId: string): Promise<void> {
    await this.mark(ids, 'NULL', 'removed_at IS NOT NULL', 'user.restore', personId);
  }

  /** Forgets devices that a user came with, so that others may. @param mac one of them; absent: all. */
  async forgetDevices(id: string, mac: string | undefined, personId: string): Promise<void> {
    const rows = await this.select<{ name: string }>('SELECT name FROM entry_user WHERE id = :id', { id });
    if (!rows[0]) throw unknown('user');
    await this.database.query(
      `DELETE FROM entry_user_device WHERE user_id = :id ${mac === undefined ? '' : 'AND mac = :mac'}`,
      { replacements: { id, mac: mac ?? '' } },
    );
    await note(this.database, personId, 'user.forget', { name: rows[0].name });
    await this.tell([id]);
  }

  private async put(id: string, hash: string, personId: string | null, name: string, before?: string): Promise<void> {
    const [, changed] = await this.database.query(
      `UPDATE entry_user SET hash = :hash, version = version + 1 WHERE id = :id AND removed_at IS NULL ${before === undefined ? '' : 'AND hash = :before'}`,
      { replacements: { id, hash, before: before ?? '' }, type: QueryTypes.UPDATE },
    );
    if (changed === 0) throw new AppError('user.changed', 'Somebody changed this user meanwhile. Try again.');
    await note(this.database, personId, 'user.password', { name });
    await this.tell([id]);
  }

  private async mark(ids: readonly string[], at: string, where: string, act: string, personId: string): Promise<void> {
    const rows = await this.database.transaction(async (transaction) => {
      await this.lock(transaction);
      if (act === 'user.restore') {
        const [clash] = await this.select<{ name: string }>(
          `SELECT u.name FROM entry_user u JOIN entry_user o ON o.key = u.key AND o.removed_at IS NULL
           WHERE u.id = ANY(ARRAY[:ids]::uuid[]) AND u.removed_at IS NOT NULL LIMIT 1`,
          { ids: [...ids] },
          transaction,
        );
        if (clash) throw new AppError('user.refused', `“${clash.name}” cannot come back: another has the name by now.`);
        await this.refuseMany(ids.length, transaction);
      }
      const changed = await this.select<{ id: string; name: string }>(
        `UPDATE entry_user SET removed_at = ${at}, version = version + 1 WHERE id = ANY(ARRAY[:ids]::uuid[]) AND ${where} RETURNING id, name`,
        { ids: [...ids] },
        transaction,
      );
      const names = changed.slice(0, MOST_NAMED).map(({ name }) => name);
      await note(this.database, personId, act, { count: changed.length, names }, transaction);
      return changed;
    });
    await this.tell(rows.map(({ id }) => id));
  }

  /** Those whose name, group or note has some words. */
  async find(words: string, most: number): Promise<SearchHit[]> {
    const pattern = likeOf(words);
    const rows = await this.select<{ id: string; name: string; groups: string[]; note: string }>(
      `SELECT id, name, groups, note FROM entry_user WHERE removed_at IS NULL
       AND (name ILIKE :pattern OR note ILIKE :pattern OR array_to_string(groups, ';') ILIKE :pattern) ORDER BY key LIMIT :most`,
      { pattern, most },
    );
    return rows.map(({ id, name, groups, note: why }) => ({
      ...{ kind: 'user', id, siteId: null, title: name },
      detail: [isDeviceName(name) ? 'Device that is kept' : 'User', groups.join(', '), why].filter(Boolean).join(': '),
    }));
  }

  /** Names that are taken, as names are compared. */
  async taken(): Promise<ReadonlySet<string>> {
    const rows = await this.select<{ key: string }>('SELECT key FROM entry_user WHERE removed_at IS NULL');
    return new Set(rows.map(({ key }) => key));
  }

  /** @throws AppError `user.refused` where a name is another's, or there are too many. */
  private async refuseTaken(users: readonly Pick<UserFields, 'name'>[], transaction?: Transaction): Promise<void> {
    const keys = users.map(({ name }) => userKey(name));
    const rows = await this.select<{ key: string }>(
      `SELECT key FROM entry_user WHERE removed_at IS NULL AND key IN (SELECT jsonb_array_elements_text(:keys::jsonb)) LIMIT 200`,
      { keys: JSON.stringify(keys) },
      transaction,
    );
    const taken = new Set(rows.map(({ key }) => key));
    const flaws = users.flatMap(({ name }, row) =>
      taken.has(keys[row]!)
        ? [
            {
              ...flaw('user.name-taken', `There is already a user “${name}”, in this or another spelling.`, 'name'),
              row,
            },
          ]
        : [],
    );
    if (flaws.length > 0) throw rowsRefusal('user.refused', flaws, users.length > 1);
    await this.refuseMany(users.length, transaction);
  }

  private async refuseMany(more: number, transaction?: Transaction): Promise<void> {
    const [kept] = await this.select<{ count: number }>(
      'SELECT count(*)::int AS count FROM entry_user WHERE removed_at IS NULL',
      {},
      transaction,
    );
    if (kept!.count + more > MOST_USERS)
      throw new AppError('user.refused', `${MOST_USERS} users are kept at most; ${kept!.count} are there already.`);
  }

  /** One change after the other: names are looked at before they are taken. */
  private async lock(transaction: Transaction): Promise<void> {
    await this.database.query("SELECT pg_advisory_xact_lock(hashtext('entry-user'))", { transaction });
  }

  private async tell(ids: readonly string[]): Promise<void> {
    // Of very many it is told that all are to be looked at.
    await this.bus.send('users', { ids: ids.length > MOST_TOLD ? [] : [...ids] });
    await this.bus.send('live', { type: 'users' });
  }

  private select<T extends object>(sql: string, replacements: object = {}, transaction?: Transaction): Promise<T[]> {
    return this.database.query<T>(sql, {
      replacements: { ...replacements },
      type: QueryTypes.SELECT,
      ...(transaction ? { transaction } : {}),
    });
  }
}

const drawnOne = (): string => drawPassword((count) => randomFillSync(new Uint32Array(count)));
