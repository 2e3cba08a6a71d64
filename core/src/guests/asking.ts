import { isMailAddress } from '../base';
import type { AskField, AskedFields } from './ways';
import { ASK_FIELDS, MOST_FIELD } from './ways';

/** Minutes that a code is right which was sent to a guest, and digits of it. */
export const [CODE_MINUTES, CODE_DIGITS] = [30, 6];
/** How often a code that was sent may be given wrongly. */
export const MOST_WRONG = 5;
/** Minutes for which somebody is let in whose address is asked about afterwards, at least and at most. */
export const [LEAST_FIRST, MOST_FIRST] = [2, 120];

/**
 * Reads a phone number with its country, as it is typed.
 * @returns as of E.164 §6.2: a plus and up to fifteen digits; null where it is none.
 */
export function readPhone(text: string): string | null {
  const plain = text
    .trim()
    .replace(/[\s().\-\u2010-\u2015/]/g, '')
    .replace(/^00/, '+');
  return /^\+[1-9]\d{6,14}$/.test(plain) ? plain : null;
}

/** What looks like the address of a page: it would be one to press in the mail of whoever is asked. */
const LINK = /:\/\/|www\.|[\p{L}\p{N}-]\.\p{L}{2,}/iu;

/** What a guest said of itself, in one line and without what nobody sees; null: there is the address of a page in it. */
export function plainField(field: AskField, text: string): string | null {
  const plain = text
    .normalize('NFC')
    .replace(/[\p{C}\p{Zl}\p{Zp}]/gu, ' ')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, MOST_FIELD[field]);
  return LINK.test(plain) ? null : plain;
}

/** What a guest said. */
export type Said = Readonly<Partial<Record<AskField, string>>>;
export type SaidRead =
  | { readonly ok: true; readonly said: Said }
  | { readonly ok: false; readonly field: AskField; readonly why: 'missing' | 'link' };

/** Reads what a portal asks its guests for. What it does not ask for is left out. */
export function readSaid(asks: AskedFields, typed: Readonly<Partial<Record<AskField, string>>>): SaidRead {
  const said: Partial<Record<AskField, string>> = {};
  for (const field of ASK_FIELDS) {
    if (!asks[field]) continue;
    const plain = plainField(field, typed[field] ?? '');
    if (plain === null) return { ok: false, field, why: 'link' };
    if (plain === '' && asks[field] === 'must') return { ok: false, field, why: 'missing' };
    if (plain !== '') said[field] = plain;
  }
  return { ok: true, said };
}

/** Where a guest hears from the house: by mail, or by text message. */
export type Contact = { readonly by: 'mail' | 'phone'; readonly to: string };

/** Reads a mail address or a phone number; null where it is neither. */
export function readContact(text: string): Contact | null {
  const mail = text.trim();
  if (isMailAddress(mail)) return { by: 'mail', to: mail };
  const phone = readPhone(text);
  return phone === null ? null : { by: 'phone', to: phone };
}

/** The same as others may see it who look over a shoulder: `r…@skerrow.example`, `+4…21`. */
export function hidden(to: string): string {
  const at = to.lastIndexOf('@');
  return at > 0 ? `${to.slice(0, 1)}…${to.slice(at)}` : `${to.slice(0, 2)}…${to.slice(-2)}`;
}

/** For how long somebody who says yes may let a guest in, in minutes: as long as a visit lasts, and shorter ones. */
export function spansOf(visit: number): number[] {
  const usual = [30, 60, 120, 240, 480, 1440, 2880, 7 * 1440];
  return [...usual.filter((minutes) => minutes < visit), visit];
}

/** How long something lasts, in the words of a language. @param minutes whole. */
export function spanIn(language: string, minutes: number): string {
  const parts = [
    ['day', Math.floor(minutes / 1440)],
    ['hour', Math.floor((minutes % 1440) / 60)],
    ['minute', minutes % 60],
  ] as const;
  const words = parts
    .filter(([, count]) => count > 0)
    .map(([unit, count]) =>
      new Intl.NumberFormat(language, { style: 'unit', unit, unitDisplay: 'long' }).format(count),
    );
  return words.join(' ');
}
