import { formatMac, parseMac } from '../address';
import { flaw, textFault, type Flaw } from '../base';
import { octetsOfText } from '../radius';

/** Octets of a user's name: what one attribute holds (RFC 2865 §5.1). */
export const MOST_USER_NAME = 253;

/** Characters that nobody sees, or that change how others are shown. */
const INVISIBLE = /[\p{Cf}\p{Co}\p{Cn}\p{Default_Ignorable_Code_Point}]/u;
/** Scripts whose letters are taken for each other's. */
const SCRIPTS = [/\p{Script=Latin}/u, /\p{Script=Cyrillic}/u, /\p{Script=Greek}/u];

/** The MAC address that a name is, lower case with colons; null: it is none. */
export function macOfName(name: string): string | null {
  const value = parseMac(name.trim());
  return value === null ? null : formatMac(value);
}

/**
 * A user's name as names are compared: as RFC 8265 §3.3 has it (width, case, composed), compatible characters alike besides; that of a
 * device is its MAC address, however it is written. What is no name at all is compared as it is, and is nobody's.
 */
export function userKey(name: string): string {
  const text = name.normalize('NFKC').toLowerCase().normalize('NFC').trim();
  return macOfName(text) ?? text;
}

/** What is wrong with a user's name. */
export function userNameFlaws(name: string): Flaw[] {
  const key = userKey(name);
  if (key === '') return [flaw('user.name-empty', 'Say what the user signs in as.', 'name')];
  const octets = octetsOfText(name.trim()).length;
  if (octets > MOST_USER_NAME)
    return [
      flaw('user.name-long', `A name has ${MOST_USER_NAME} octets in UTF-8 at most; this has ${octets}.`, 'name'),
    ];
  const fault = textFault(name);
  if (fault !== null) return [flaw('user.name-signs', `The name ${fault}.`, 'name')];
  if (INVISIBLE.test(name))
    return [flaw('user.name-invisible', 'The name has a character that nobody sees; type it anew.', 'name')];
  if (SCRIPTS.filter((script) => script.test(name)).length > 1)
    return [
      flaw('user.name-mixed', 'The name has letters of two scripts that look alike; write it in one of them.', 'name'),
    ];
  return [];
}
