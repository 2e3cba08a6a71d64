import { flaw, textFault, type Flaw } from '../base';
import { octetsOfText, textOfOctets } from '../radius';
import type { DirectoryFault, DirectoryFields } from './directory.contract';

/** Characters of each field at most. */
export const MOST_DIRECTORY_TEXT = {
  host: 253,
  authority: 100_000,
  account: 500,
  base: 500,
  filter: 1000,
  attribute: 64,
} as const;
/** Groups of one user that are looked at. */
export const MOST_GROUPS_FOUND = 500;
/** Where the name of whoever signs in, and of an entry, stands in a filter. */
export const NAME_MARK = '{name}';
export const DN_MARK = '{dn}';

/** A value as it stands in a filter: what means something there is escaped (RFC 4515 §3). */
export const filterValue = (text: string): string =>
  [...octetsOfText(text)]
    .map((octet) =>
      octet < 0x20 || octet > 0x7e || [0x28, 0x29, 0x2a, 0x5c].includes(octet)
        ? `\\${octet.toString(16).padStart(2, '0')}`
        : String.fromCharCode(octet),
    )
    .join('');
/** The filter that finds somebody, or the groups of an entry. */
export const filterFor = (filter: string, mark: string, value: string): string =>
  filter.replaceAll(mark, () => filterValue(value));

/**
 * The name of a group: of a distinguished name (RFC 4514) the value of its first part, unescaped; anything else is its own name.
 * @param text a value of the attribute that groups stand in.
 */
export function groupNameOf(text: string): string {
  const first = /^[A-Za-z][A-Za-z0-9-]*=((?:\\.|[^\\,+])*)(?=[,+]|$)/s.exec(text);
  if (!first) return text;
  const octets: number[] = [];
  const parts = first[1]!.match(/\\[0-9a-fA-F]{2}|\\.|[^\\]+/gs) ?? [];
  for (const part of parts) {
    if (/^\\[0-9a-fA-F]{2}$/.test(part)) octets.push(Number.parseInt(part.slice(1), 16));
    else octets.push(...octetsOfText(part.startsWith('\\') ? part.slice(1) : part));
  }
  return textOfOctets(Uint8Array.from(octets)).trim();
}

/** Whether brackets of a filter fit, each with something in it. */
function filterFault(filter: string, mark: string): string | null {
  let depth = 0;
  for (let at = 0; at < filter.length; at++) {
    if (filter[at] === '\\') at += 2;
    else if (filter[at] === '(') depth++;
    else if (filter[at] === ')' && --depth < 0) return 'It has a bracket more than it opens.';
  }
  if (depth !== 0) return 'It has a bracket that is not closed.';
  if (!/^\(.+\)$/s.test(filter)) return `It stands in brackets, such as (uid=${mark}).`;
  return filter.includes(mark) ? null : `It has to say ${mark}: else it finds the same for everybody.`;
}

/** What is wrong with what is said of a directory. @param needsSecret whether its account has no password yet. */
export function directoryFlaws(fields: DirectoryFields, needsSecret: boolean): Flaw[] {
  const flaws: Flaw[] = [];
  const say = (field: keyof DirectoryFields | 'secret', message: string): void => {
    flaws.push(flaw('directory.refused', message, field));
  };
  const { host, port, account, base, filter, groupAttribute, groupBase, groupFilter, authority, security } = fields;
  if (!/^[a-z0-9:]([a-z0-9.:-]*[a-z0-9])?$/i.test(host)) say('host', 'That is no name or address of a host.');
  if (!Number.isInteger(port) || port < 1 || port > 65_535) say('port', 'A port is a number from 1 to 65535.');
  for (const [field, text] of Object.entries({ account, base, filter, groupAttribute, groupBase, groupFilter })) {
    const fault = textFault(text);
    if (fault !== null) say(field as keyof DirectoryFields, `It ${fault}.`);
  }
  if (base === '') say('base', 'Say below which entry people are, such as ou=people,dc=example.');
  const wrong = filterFault(filter, NAME_MARK);
  if (wrong !== null) say('filter', wrong);
  if (groupAttribute === '') {
    if (groupBase === '')
      say('groupBase', 'Say below which entry groups are, or name an attribute that groups stand in.');
    const groups = filterFault(groupFilter, DN_MARK);
    if (groups !== null) say('groupFilter', groups);
  } else if (!/^[A-Za-z][A-Za-z0-9-]*$/.test(groupAttribute)) say('groupAttribute', 'That is no name of an attribute.');
  if (account !== '' && needsSecret) say('secret', 'The account has a password: say it, or leave the account empty.');
  if (account !== '' && !account.includes('=') && !account.includes('@'))
    say('account', 'An account is named whole, such as cn=lattice,ou=services,dc=example.');
  if (authority.trim() !== '' && !authority.includes('-----BEGIN CERTIFICATE-----'))
    say('authority', 'That is no certificate, as PEM.');
  if (security === 'none' && authority.trim() !== '')
    say('authority', 'Nothing is encrypted, so nobody is believed by it: choose LDAPS, or StartTLS.');
  return flaws;
}

/** What to do about each fault. */
export const DIRECTORY_ADVICE: Readonly<Record<DirectoryFault, string>> = {
  unresolved: 'Check the name of the host, and the name servers of this machine.',
  unreachable: 'Check host and port, and what is between: LDAPS has port 636, others 389.',
  silent: 'Somebody is there and says nothing in time: check the port, and how busy it is.',
  untrusted:
    'Paste the certificate of whoever made its certificate, as PEM, and name the host as that certificate does.',
  unencrypted: 'It does not take StartTLS there: choose LDAPS at port 636, or have it do TLS.',
  account: 'Check the account’s whole name and its password.',
  base: 'There is no such entry: check the base.',
  rights: 'Let the account search below the base, and read the entries’ names and groups: more it does not need.',
  size: 'Make the base or the filter narrower, or let the account be told more.',
  several: 'Make the filter narrower: a name has to fit one entry.',
  filter: 'Check how the filter is written (RFC 4515).',
  other: 'Its own log may say more.',
};
