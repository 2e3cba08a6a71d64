import type { NewUser, UserFields } from '@iron-lattice/core/entry';
import { isDeviceName, normalUser } from '@iron-lattice/core/entry';

/** A user as it is typed. */
export interface UserText {
  readonly name: string;
  /** Of a new one; empty: one is drawn. */
  readonly password: string;
  /** Parted by semicolons or commas. */
  readonly groups: string;
  readonly until: string;
  readonly most: string;
  readonly off: boolean;
  readonly note: string;
}

export function userTextOf(user: UserFields | null): UserText {
  if (!user) return { name: '', password: '', groups: '', until: '', most: '', off: false, note: '' };
  const { name, groups, until, most, off, note } = user;
  return {
    ...{ name, password: '', groups: groups.join('; '), until: until ?? '' },
    ...{ most: most === null ? '' : String(most), off, note },
  };
}

/** What was typed as the fields of a user; what cannot be read stays, to be refused with a word. */
export function userFieldsOf({ name, groups, until, most, off, note }: UserText): UserFields {
  const count = most.trim();
  return normalUser({
    ...{ name, groups: groups.split(/[;,]/), until: until.trim() || null, off, note },
    most: count === '' ? null : /^\d{1,6}$/.test(count) ? Number(count) : -1,
  });
}

/** What was typed as a new user. */
export const newUserOf = (text: UserText): NewUser => ({
  ...userFieldsOf(text),
  password: text.password === '' && isDeviceName(text.name) ? null : text.password,
});
