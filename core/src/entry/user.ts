import { flaw, textFault, type Flaw } from '../base';
import { isCommonPassphrase } from '../intent';
import { octetsOfText } from '../radius';
import { isDay } from '../rules';
import { macOfName, userKey, userNameFlaws } from './user-name';

/** What is said of a user that the controller keeps. */
export interface UserFields {
  /** What they sign in as; a MAC address is a device that is let in by it, without a password. */
  readonly name: string;
  /** Names of groups, in the order in which they count: the class of the first that has one at a site is theirs there. */
  readonly groups: readonly string[];
  /** Last day, such as `2026-12-31`, by the clock of the site they come by; null: no end. */
  readonly until: string | null;
  /** Most different devices they come with; null: any number. */
  readonly most: number | null;
  /** Whether they are let in nowhere for the time being. */
  readonly off: boolean;
  readonly note: string;
}

/** A user that is to be made. */
export interface NewUser extends UserFields {
  /** Null for a device; empty: one is drawn as it is made. */
  readonly password: string | null;
}

/** A device that a user came with. */
export interface UserDevice {
  readonly mac: string;
  readonly firstAt: string;
  readonly lastAt: string;
  /** Name of the device of ours that last asked for it. */
  readonly where: string;
}

/** How often, why, where and with which device a user was turned away, in the last week. */
export interface UserRefusal {
  readonly why: string;
  /** Empty: it did not say, or there were very many. */
  readonly mac: string;
  /** Name of the device of ours that asked. */
  readonly where: string;
  readonly count: number;
  readonly lastAt: string;
}

/** A user that was taken away, and can be brought back for a day. */
export interface RemovedUser {
  readonly id: string;
  readonly name: string;
  /** ISO 8601. */
  readonly removedAt: string;
}

/** A user as it is shown: never with a password. */
export interface UserView extends UserFields {
  readonly id: string;
  readonly by: string;
  readonly at: string;
  /** Counts up with each change. */
  readonly version: number;
  /** When and where they were last let in; null: not yet. */
  readonly lastAt: string | null;
  /** Devices they came with, the latest first; of very many the latest. */
  readonly devices: readonly UserDevice[];
  /** How often they were turned away in the last week, and how: the latest first, of very many the latest. */
  readonly refused: number;
  readonly refusals: readonly UserRefusal[];
}

/** All users that the controller keeps, and how it answers for them. */
export interface UsersView {
  readonly users: readonly UserView[];
  readonly answering: Answering;
}

/** How the controller's own RADIUS server fares. */
export interface Answering {
  /** UDP port at which it answers; null: it does not, for why. */
  readonly port: number | null;
  readonly why: string;
}

/** Most users, groups of one, characters of a group and of a note, devices, octets of a password. */
export const [MOST_USERS, MOST_GROUPS, MOST_GROUP_NAME, MOST_USER_NOTE, MOST_USER_DEVICES] = [
  20_000, 20, 60, 400, 1000,
] as const;
/** Characters of a password: fewest that are taken (NIST SP 800-63B §5.1.1.2), most, and of one that is drawn. */
export const USER_PASSWORD_SIZE = { least: 8, most: 128, drawn: 12 } as const;
/** Devices of a user that are told. */
export const MOST_DEVICES_TOLD = 50;
/** Refusals of a user that are told. */
export const MOST_REFUSALS_TOLD = 20;

/** Whether a user is a device that is let in by its MAC address. */
export const isDeviceName = (name: string): boolean => macOfName(name) !== null;

/** What is said of a user as it is kept: names without blanks around them, a device by its address. */
export function normalUser<T extends Partial<UserFields>>(fields: T): T {
  const { name, groups, note } = fields;
  return {
    ...fields,
    ...(name === undefined ? {} : { name: macOfName(name) ?? name.normalize('NFC').trim() }),
    ...(groups === undefined ? {} : { groups: groups.map((each) => each.trim()).filter((each) => each !== '') }),
    ...(note === undefined ? {} : { note: note.trim() }),
  };
}

/** What is wrong with a group's name, in words that follow it; null: nothing. */
export function groupFault(name: string): string | null {
  if (name.length > MOST_GROUP_NAME) return `has ${name.length} characters; ${MOST_GROUP_NAME} are the most`;
  if (/[;,]/.test(name)) return 'has a comma or semicolon, which part groups';
  return textFault(name);
}

/** What is wrong with a user as it is said, for itself. @param password null: it stays as it is, or there is none. */
export function userFlaws(fields: UserFields, password: string | null): Flaw[] {
  const { name, groups, until, most, note } = fields;
  const flaws = userNameFlaws(name);
  if (groups.length > MOST_GROUPS)
    flaws.push(flaw('user.groups', `A user is in ${MOST_GROUPS} groups at most.`, 'groups'));
  const seen = new Set<string>();
  for (const group of groups) {
    const fault = groupFault(group);
    if (fault !== null) flaws.push(flaw('user.group', `The group “${group.slice(0, 40)}” ${fault}.`, 'groups'));
    if (seen.has(group.toLowerCase()))
      flaws.push(flaw('user.group-twice', `The group “${group}” is there twice.`, 'groups'));
    seen.add(group.toLowerCase());
  }
  if (until !== null && !isDay(until))
    flaws.push(flaw('user.until', `“${until}” is no day; write it like 2026-12-31.`, 'until'));
  if (most !== null && (!Number.isInteger(most) || most < 1 || most > MOST_USER_DEVICES))
    flaws.push(
      flaw('user.most', `A user comes with 1 to ${MOST_USER_DEVICES} devices; leave it empty for any number.`, 'most'),
    );
  if (note.length > MOST_USER_NOTE)
    flaws.push(flaw('user.note', `A note has ${MOST_USER_NOTE} characters at most.`, 'note'));
  else {
    const fault = textFault(note, true);
    if (fault !== null) flaws.push(flaw('user.note', `The note ${fault}.`, 'note'));
  }
  if (password !== null && password !== '')
    flaws.push(...(isDeviceName(name) ? devicePassword() : passwordFlaws(password, name)));
  return flaws;
}

const devicePassword = (): Flaw[] => [
  flaw('user.password-device', 'A device is let in by its MAC address: it has no password.', 'password'),
];

/** What is wrong with a user's password. @param name of the user: no password is that. */
export function passwordFlaws(password: string, name: string): Flaw[] {
  const { least, most } = USER_PASSWORD_SIZE;
  const [size, octets] = [[...password].length, octetsOfText(password).length];
  if (size < least)
    return [flaw('user.password-short', `A password has ${least} characters or more; this has ${size}.`, 'password')];
  if (octets > most)
    return [
      flaw('user.password-long', `A password has ${most} octets in UTF-8 at most; this has ${octets}.`, 'password'),
    ];
  const fault = textFault(password);
  if (fault !== null) return [flaw('user.password-signs', `The password ${fault}.`, 'password')];
  if (isCommonPassphrase(password) || userKey(password) === userKey(name))
    return [
      flaw('user.password-common', 'The password is among those that are tried first; choose another.', 'password'),
    ];
  return [];
}

/** What is wrong with users that are made together: each for itself, and beside each other. At most `most` are told. */
export function newUsersFlaws(users: readonly NewUser[], most = 100): (Flaw & { readonly row: number })[] {
  const flaws: (Flaw & { row: number })[] = [];
  const names = new Map<string, number>();
  for (const [row, user] of users.entries()) {
    if (flaws.length >= most) break;
    flaws.push(...userFlaws(user, user.password).map((each) => ({ ...each, row })));
    const key = userKey(user.name);
    const before = names.get(key);
    if (before !== undefined && key !== '')
      flaws.push({ ...flaw('user.name-taken', `“${user.name}” is in row ${before + 1} already.`, 'name'), row });
    names.set(key, row);
  }
  return flaws.slice(0, most);
}
