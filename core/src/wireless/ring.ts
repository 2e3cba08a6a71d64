import { parseMac, formatMac } from '../address';
import { flaw, type Flaw } from '../base';
import { isDay, minuteOfDay } from '../rules';
import { keyKind } from './pairwise-key';

/** What is said of a key of a ring. */
export interface RingKeyFields {
  /** Who or what it is for; no two of a ring are alike, whatever their case. */
  readonly name: string;
  /** Name of the segment it leads to; null: the SSID's own. */
  readonly segment: string | null;
  /** Name of the class that it leads to instead, which says its segment; null: none. */
  readonly accessClass: string | null;
  /** MAC addresses that it is bound to, lower case with colons; none: any. */
  readonly macs: readonly string[];
  /** Most different devices; null: any number. */
  readonly most: number | null;
  /** First and last moment, as `2026-12-31` or `2026-12-31 11:00`, by each site's clock; a day is whole. */
  readonly from: string | null;
  readonly until: string | null;
  readonly note: string;
}
/** A key that is to be made. */
export interface NewRingKey extends RingKeyFields {
  readonly key: string;
}

/** A key as it is shown: without itself. */
export interface RingKeyView extends RingKeyFields {
  readonly id: string;
  readonly by: string;
  readonly at: string;
  /** When it was taken back; null: it is right. */
  readonly revokedAt: string | null;
  /** MAC addresses of devices that have given it, the first first; of very many the first ones. */
  readonly devices: readonly string[];
  /** MAC addresses of those that are on the air with it now. */
  readonly now: readonly string[];
}
/** A ring with its keys, by name. */
export interface RingView {
  readonly ssidId: string;
  readonly keys: readonly RingKeyView[];
  /** Names of the segments that keys lead to where the SSID is live, its own first; null: it is live nowhere. */
  readonly live: readonly string[] | null;
  /** Names of the classes that they may lead to where it is live. */
  readonly liveClasses: readonly string[];
  /** Where it is live, RADIUS servers name its keys: those that are kept here count for nothing. */
  readonly atServers: boolean;
  /** How many of those that are right have their master key worked out for the name that is live. */
  readonly masters: number;
  /** APs that ask for its keys, and how many of them have all that was said of it. */
  readonly aps: number;
  readonly told: number;
}

/** Most keys of a ring that are right, characters of a name and of a note, MAC addresses of a key, devices. */
export const [MOST_KEYS, MOST_KEY_NAME, MOST_KEY_NOTE, MOST_KEY_MACS, MOST_KEY_DEVICES] = [
  10_000, 100, 400, 100, 1000,
] as const;

/** A fault in one of many keys, by its place in the list. */
export interface RingKeyFlaw extends Flaw {
  readonly row: number;
}

const isMoment = (text: string): boolean => {
  const [day = '', time, ...rest] = text.split(' ');
  return rest.length === 0 && isDay(day) && (time === undefined || (time.length === 5 && minuteOfDay(time) !== null));
};

/** What is wrong with a key as it is said, for itself. @param key absent where it stays as it is. */
export function ringKeyFlaws(fields: RingKeyFields, key?: string): Flaw[] {
  const { name, segment, accessClass, macs, most, from, until, note } = fields;
  const flaws: Flaw[] = [];
  if (name.trim() === '') flaws.push(flaw('ring.name-empty', 'Say whom or what the key is for.', 'name'));
  else if (name.length > MOST_KEY_NAME)
    flaws.push(flaw('ring.name-long', `A name has ${MOST_KEY_NAME} characters at most.`, 'name'));
  if (/[\p{Cc}\p{Cs}]/u.test(name)) flaws.push(flaw('ring.name-signs', 'A name is one line of plain text.', 'name'));
  if (note.length > MOST_KEY_NOTE)
    flaws.push(flaw('ring.note-long', `A note has ${MOST_KEY_NOTE} characters at most.`, 'note'));
  if (key !== undefined && keyKind(key) === null) flaws.push(flaw('ring.key', keyWords(key), 'key'));
  if (segment !== null && accessClass !== null)
    flaws.push(
      flaw('ring.class-segment', 'A key leads to a segment or to a class, which says its segment.', 'accessClass'),
    );
  if (macs.length > MOST_KEY_MACS)
    flaws.push(flaw('ring.macs', `A key is bound to ${MOST_KEY_MACS} MAC addresses at most.`, 'macs'));
  const wrong = macs.find((mac) => plainMac(mac) !== mac);
  if (wrong !== undefined) flaws.push(flaw('ring.mac', `“${wrong}” is no MAC address.`, 'macs'));
  const twice = macs.find((mac, i) => macs.indexOf(mac) < i);
  if (twice !== undefined) flaws.push(flaw('ring.mac-twice', `${twice} is there twice.`, 'macs'));
  if (most !== null && (!Number.isInteger(most) || most < 1 || most > MOST_KEY_DEVICES))
    flaws.push(
      flaw('ring.most', `A key takes 1 to ${MOST_KEY_DEVICES} devices; leave it empty for any number.`, 'most'),
    );
  for (const [field, text] of Object.entries({ from, until }))
    if (text !== null && !isMoment(text))
      flaws.push(flaw('ring.moment', `“${text}” is no day; write 2026-12-31, or 2026-12-31 11:00.`, field));
  if (from !== null && until !== null && isMoment(from) && isMoment(until) && lastOf(until) < firstOf(from))
    flaws.push(flaw('ring.until', `It would end (${until}) before it begins (${from}).`, 'until'));
  return flaws;
}

const firstOf = (text: string): string => (text.length === 10 ? `${text} 00:00` : text);
const lastOf = (text: string): string => (text.length === 10 ? `${text} 24:00` : text);

function keyWords(key: string): string {
  const odd = [...key].find((char) => !/[\x20-\x7e]/.test(char));
  if (odd !== undefined)
    return `A key has letters, digits, blanks and punctuation without accents: “${odd}” is none of them.`;
  return `A key has 8 to 63 characters, or is 64 hex digits; this has ${key.length}.`;
}

/** A MAC address as it is kept, lower case with colons; null: the text is none. */
export function plainMac(text: string): string | null {
  const value = parseMac(text.trim());
  return value === null ? null : formatMac(value);
}

/** What is wrong with keys that are to be made together: each for itself, and beside each other. At most `most` are told. */
export function newKeysFlaws(keys: readonly NewRingKey[], most = 100): RingKeyFlaw[] {
  const flaws: RingKeyFlaw[] = [];
  const [names, texts, bound] = [new Map<string, number>(), new Map<string, number>(), new Map<string, string>()];
  for (const [row, key] of keys.entries()) {
    if (flaws.length >= most) break;
    flaws.push(...ringKeyFlaws(key, key.key).map((each) => ({ ...each, row })));
    const name = key.name.trim().toLowerCase();
    const [sameName, sameKey] = [names.get(name), texts.get(key.key)];
    if (sameName !== undefined && name !== '')
      flaws.push({ ...flaw('ring.name-taken', `“${key.name}” is in row ${sameName + 1} already.`, 'name'), row });
    if (sameKey !== undefined)
      flaws.push({
        ...flaw('ring.key-taken', `It is the key of row ${sameKey + 1}: each needs its own.`, 'key'),
        row,
      });
    const other = boundFlaw(key.macs, bound);
    if (other) flaws.push({ ...other, row });
    names.set(name, row);
    texts.set(key.key, row);
    for (const mac of key.macs) bound.set(mac, key.name);
  }
  return flaws.slice(0, most);
}

/** That a device is bound to another key of the ring: which of them it gives would be chance. @param bound names of keys by MAC address. */
export function boundFlaw(macs: readonly string[], bound: ReadonlyMap<string, string>): Flaw | null {
  const mac = macs.find((each) => bound.has(each));
  if (mac === undefined) return null;
  return flaw('ring.mac-bound', `${mac} is bound to “${bound.get(mac)}” already. Take it out there first.`, 'macs');
}

/** What a pattern such as `Berth {n}` comes to for a number; `{nn}` and `{nnn}` have leading zeros. */
export const patternAt = (pattern: string, n: number): string =>
  pattern.replace(/\{(n+)\}/g, (_all, digits: string) => String(n).padStart(digits.length, '0'));

/** Whether each number makes another name of it. */
export const isPattern = (pattern: string): boolean => /\{n+\}/.test(pattern);

/** Reads a list of new keys as they are sent. @returns why it is none, in words. */
export function readNewKeys(text: string): NewRingKey[] | string {
  let list: unknown;
  try {
    list = JSON.parse(text);
  } catch {
    return 'This is no list of keys.';
  }
  if (!Array.isArray(list) || list.length === 0) return 'Give at least one key.';
  if (list.length > MOST_KEYS) return `A ring has ${MOST_KEYS} keys at most; these are ${list.length}.`;
  const isText = (value: unknown): value is string => typeof value === 'string' && value.length <= 1000;
  const isMaybe = (value: unknown): value is string | null => value === null || isText(value);
  const keys: NewRingKey[] = [];
  for (const [row, each] of (list as readonly unknown[]).entries()) {
    const {
      name,
      key,
      segment,
      accessClass = null,
      macs,
      most,
      from,
      until,
      note,
    } = (each ?? {}) as Record<string, unknown>;
    const isLed = isMaybe(segment) && isMaybe(accessClass);
    const isKey = isText(name) && isText(key) && isText(note) && isLed && isMaybe(from) && isMaybe(until);
    const isBound = Array.isArray(macs) && macs.length <= 1000 && macs.every(isText);
    if (!isKey || !isBound || !(most === null || typeof most === 'number')) return `Row ${row + 1} is no key.`;
    keys.push({ name, key, segment, accessClass, macs, most, from, until, note });
  }
  return keys;
}

/** What a QR code holds by which phones join a network. @param key null: it asks for none. */
export function joinText(ssid: string, key: string | null, hidden = false): string {
  const kept = (text: string): string => text.replace(/([\\;,":])/g, '\\$1');
  const secret = key === null ? '' : `P:${kept(key)};`;
  return `WIFI:T:${key === null ? 'nopass' : 'WPA'};S:${kept(ssid)};${secret}${hidden ? 'H:true;' : ''};`;
}
