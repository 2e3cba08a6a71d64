import { sameOctets } from './authenticators';
import type { Attribute, Code } from './packet';
import { chapResponse } from './passwords';

type Fits = boolean | null | string;

/** Somebody whom a server knows. */
export interface KnownUser {
  /** Who that is, to whoever runs the server. */
  readonly id?: string;
  /** The password, where it is kept as such: challenges cannot be checked without. */
  readonly password: Uint8Array | null;
  /** Whether a password is theirs; null: it cannot be said now, and nobody is answered; words: it is not looked at, and why. */
  readonly fits: (password: Uint8Array) => Fits | Promise<Fits>;
  /** Why a certificate of theirs is not taken, by its SHA-256 in hex; null: it is. Absent: any of the authority’s is. */
  readonly certified?: (sha256: string) => string | null;
  /** Why they are not let in though they are who they say, in words; null, or absent: they are. */
  readonly barred?: () => string | null;
  /** What is answered when they are let in. */
  readonly attributes: readonly Attribute[];
}

/** What is answered, and why. */
export interface Judged {
  /** Null: nothing. */
  readonly code: Code | null;
  readonly attributes: readonly Attribute[];
  readonly words: string;
  /** Nobody is known by the name. */
  readonly unknown?: true;
  /** Who it is about, as far as that is known. */
  readonly known?: KnownUser;
}

export function accepted(known: KnownUser): Judged {
  const why = known.barred?.() ?? null;
  return why === null ? { code: 2, attributes: known.attributes, words: 'let in', known } : turnedAway(known, why);
}
/** Somebody who is known is not let in. */
export const turnedAway = (known: KnownUser, words: string): Judged => ({ ...rejected(words), known });
export const rejected = (words: string): Judged => ({ code: 3, attributes: [], words });
export const unknownTo = (name: string): Judged => ({ ...rejected(`${name} is not known`), unknown: true });

export const WRONG = 'its password is wrong';
/** Why no challenge can be checked. */
export const HASHED = 'its password is kept in a way that no challenge can be checked by';

/** Judges a password as such. @param password null: it is none. */
export async function judgePassword(password: Uint8Array | null, user: KnownUser): Promise<Judged> {
  if (!password) return rejected('its password has no length that one can have');
  const fits = await user.fits(password);
  if (fits === null) return { code: null, attributes: [], words: 'too many are asked for at the moment' };
  if (typeof fits === 'string') return turnedAway(user, fits);
  return fits ? accepted(user) : turnedAway(user, WRONG);
}

/** Judges what answers a challenge (RFC 1994 §4.1). @param chap identifier and response. */
export function judgeChap(chap: Uint8Array, challenge: Uint8Array, user: KnownUser): Judged {
  if (chap.length !== 17) return rejected('its CHAP-Password has not 17 octets');
  if (!user.password) return turnedAway(user, HASHED);
  const right = chapResponse(chap[0]!, user.password, challenge);
  return sameOctets(right, chap.slice(1)) ? accepted(user) : turnedAway(user, WRONG);
}
