import type { CheckedList, Flaw } from '@iron-lattice/core/base';
import { checkUserList, newUsersFlaws, readNewUsers, type NewUser } from '@iron-lattice/core/entry';
import type { TasksOf } from '../platform/heavy';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** Reads users that are to be made, and what is wrong with them; `refused`: they are no users. */
    'new-users': (bytes: Uint8Array) => {
      readonly users: readonly NewUser[];
      readonly flaws: readonly (Flaw & { readonly row: number })[];
      readonly refused: string | null;
    };
    /** Looks at a list of users row by row, for itself. */
    'user-list': (table: readonly (readonly string[])[]) => CheckedList<NewUser>;
  }
}

export const tasks: TasksOf<'new-users' | 'user-list'> = {
  'new-users': (bytes) => {
    const users = readNewUsers(new TextDecoder().decode(bytes));
    if (typeof users === 'string') return { users: [], flaws: [], refused: users };
    return { users, flaws: newUsersFlaws(users), refused: null };
  },
  'user-list': (table) => checkUserList(table),
};
