import { drawKey, flaw, readColumns, type CheckedList, type CheckedRow, type Flaw, type ListColumn } from '../base';
import { isDeviceName, MOST_USERS, newUsersFlaws, normalUser, USER_PASSWORD_SIZE, type NewUser } from './user';

const HEADINGS = {
  name: ['name', 'user', 'user name', 'mac'],
  password: ['password'],
  groups: ['groups', 'group'],
  until: ['until', 'end', 'expires'],
  most: ['devices', 'most devices'],
  off: ['off', 'blocked'],
  note: ['note', 'notes'],
} as const;
type Column = keyof typeof HEADINGS;

/** Columns of a list of users, in the order they are written. */
export const USER_COLUMNS: readonly ListColumn<Column>[] = Object.entries(HEADINGS).map(([key, headings]) => ({
  ...{ key: key as Column, headings },
  required: key === 'name',
}));

const [YES, NO] = [
  ['yes', 'off', 'true', '1', 'x'],
  ['', 'no', 'false', '0'],
];

/** Users as rows of text with a heading; reading them back gives the same users. A password is there where it is known: just made. */
export const userTable = (users: readonly (Omit<NewUser, 'password'> & { readonly password?: string | null })[]) => [
  USER_COLUMNS.map(({ headings }) => headings[0]!),
  ...users.map(({ name, password, groups, until, most, off, note }) => [
    ...[name, password ?? '', groups.join('; '), until ?? '', most === null ? '' : String(most)],
    ...[off ? 'yes' : '', note],
  ]),
];

/** Draws a password that is handed over on paper: letters and digits of which none is taken for another, 59 bits. */
export const drawPassword = (random: (count: number) => Uint32Array): string =>
  drawKey(USER_PASSWORD_SIZE.drawn, 'clear', random);

/**
 * Looks at a list of users row by row; an empty password is drawn when they are made, a device has none.
 * @param table rows of cells, as text.
 */
export function checkUserList(table: readonly (readonly string[])[]): CheckedList<NewUser> {
  const { rows, flaws } = readColumns(table, USER_COLUMNS);
  if (rows.length > MOST_USERS)
    return {
      rows: [],
      flaws: [flaw('user.many', `${MOST_USERS} users are kept at most; these are ${rows.length}.`)],
    };
  if (flaws.length === 0 && rows.length === 0)
    return { rows: [], flaws: [flaw('list.empty', 'The list is empty. Put one user on each line.')] };
  const users = rows.map(({ values }) => userOf(values));
  const wrong = new Map<number, Flaw[]>();
  for (const { row, ...each } of newUsersFlaws(users, Infinity)) wrong.set(row, [...(wrong.get(row) ?? []), each]);
  return {
    flaws,
    rows: rows.map(({ line, values }, row): CheckedRow<NewUser> => {
      const off = values.off.toLowerCase();
      const odd = !YES.includes(off) && !NO.includes(off);
      const found = [
        ...(wrong.get(row) ?? []),
        ...(odd ? [flaw('user.off', `“${values.off}” is neither yes nor no.`, 'off')] : []),
      ];
      const good = found.length === 0 ? users[row]! : null;
      return { line, values: { ...values, password: shown(values.password, users[row]!) }, good, flaws: found };
    }),
  };
}

/** What a look at the list shows of a password: never itself. */
const shown = (typed: string, { name }: NewUser): string =>
  isDeviceName(name) ? 'none needed' : typed === '' ? 'is drawn' : 'as given';

function userOf(values: Readonly<Record<Column, string>>): NewUser {
  const most = values.most === '' ? null : Number(values.most);
  return normalUser({
    name: values.name,
    password: values.password === '' && isDeviceName(values.name) ? null : values.password,
    groups: values.groups.split(/[;,]/),
    until: values.until || null,
    most: most !== null && Number.isNaN(most) ? -1 : most,
    off: YES.includes(values.off.toLowerCase()),
    note: values.note,
  });
}

/** Reads a list of new users as they are sent. @returns why it is none, in words. */
export function readNewUsers(text: string): NewUser[] | string {
  let list: unknown;
  try {
    list = JSON.parse(text);
  } catch {
    return 'This is no list of users.';
  }
  if (!Array.isArray(list) || list.length === 0) return 'Give at least one user.';
  if (list.length > MOST_USERS) return `${MOST_USERS} users are kept at most; these are ${list.length}.`;
  const isText = (value: unknown): value is string => typeof value === 'string' && value.length <= 2000;
  const isMaybe = (value: unknown): value is string | null => value === null || isText(value);
  const users: NewUser[] = [];
  for (const [row, each] of (list as readonly unknown[]).entries()) {
    const { name, password, groups, until, most, off, note } = (each ?? {}) as Record<string, unknown>;
    const good = isText(name) && isMaybe(password) && isMaybe(until) && isText(note) && typeof off === 'boolean';
    const grouped = Array.isArray(groups) && groups.length <= 100 && groups.every(isText);
    if (!good || !grouped || !(most === null || typeof most === 'number')) return `Row ${row + 1} is no user.`;
    users.push(normalUser({ name, password, groups, until, most, off, note }));
  }
  return users;
}
