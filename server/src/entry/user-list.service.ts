import { setImmediate } from 'node:timers/promises';
import { flaw, type CheckedList, type CheckedRow } from '@iron-lattice/core/base';
import { userKey, type NewUser } from '@iron-lattice/core/entry';
import { AppError } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';
import { rowsRefusal } from '../platform/rows-refusal';
import type { UserService } from './user.service';

/** Rows that are held against what is there before others have their turn. */
const LOOKED_AT = 500;

/** Users as lists. */
export class UserListService {
  constructor(
    private readonly users: UserService,
    private readonly heavy: Heavy,
  ) {}

  /** A list of users, looked at row by row. @throws AppError `list.refused` when it cannot be read. */
  async preview(bytes: Uint8Array): Promise<CheckedList<NewUser>> {
    const read = await this.heavy.read('read-table', bytes);
    if (!read.ok) throw new AppError('list.refused', read.reason);
    const [seen, taken] = await Promise.all([this.heavy.run('user-list', read.table), this.users.taken()]);
    const rows: CheckedRow<NewUser>[] = [];
    for (const [i, row] of seen.rows.entries()) {
      const there = row.good !== null && taken.has(userKey(row.good.name));
      const flaws = there
        ? [flaw('user.name-taken', `There is already a user “${row.good.name}”, in this or another spelling.`, 'name')]
        : row.flaws;
      rows.push(there ? { ...row, good: null, flaws } : row);
      if (i % LOOKED_AT === LOOKED_AT - 1) await setImmediate(); // others have their turn
    }
    return { ...seen, rows };
  }

  /** Reads users that are to be made. @throws AppError `user.refused` where one is none, or is wrong. */
  async read(bytes: Uint8Array): Promise<readonly NewUser[]> {
    const { users, flaws, refused } = await this.heavy.run('new-users', bytes);
    if (refused !== null) throw new AppError('user.refused', refused);
    if (flaws.length > 0) throw rowsRefusal('user.refused', flaws, users.length > 1);
    return users;
  }
}
