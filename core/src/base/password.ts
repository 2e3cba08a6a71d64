import { flaw, type Flaw } from './flaw';

const LEAST = 12;
/** What people take first when they are asked for a password, and its pieces. */
const COMMON = [
  'password',
  'passwort',
  'qwerty',
  'qwertz',
  'azerty',
  'letmein',
  'welcome',
  'administrator',
  'admin',
  '123456',
  'abcdef',
  'iloveyou',
  'changeme',
  'lattice',
];

/**
 * Judges a password by what makes guessing hard: its length and how little of it is known (NIST SP 800-63B §5.1.1.2:
 * length and a list of what is common, no rules of composition).
 * @param known words an attacker tries first: the person's name and address, the estate.
 * @returns what is wrong with it; empty for a strong one.
 */
export function checkPassword(password: string, known: readonly string[]): Flaw[] {
  if (password.length < LEAST)
    return [
      flaw('password.short', `A strong password has ${LEAST} characters or more; a few words do well.`, 'password'),
    ];
  if (password.length > 200) return [flaw('password.long', 'A password has 200 characters at most.', 'password')];
  let rest = password.toLowerCase();
  const words = known.flatMap((text) => text.toLowerCase().split(/[^\p{L}\p{N}]+/u)).filter((word) => word.length >= 4);
  for (const word of [...COMMON, ...words]) rest = rest.replaceAll(word, '');
  if (rest.length < LEAST - 4)
    return [flaw('password.known', 'Much of it is easy to guess: names, this estate, or common words.', 'password')];
  if (new Set(password).size < 5) return [flaw('password.plain', 'It repeats too few characters.', 'password')];
  const codes = [...password].map((letter) => letter.codePointAt(0)!);
  const steps = codes.slice(1).filter((code, i) => Math.abs(code - codes[i]!) <= 1).length;
  if (steps > password.length / 2)
    return [flaw('password.plain', 'It is a row of neighbouring characters.', 'password')];
  return [];
}
