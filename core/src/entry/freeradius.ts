import type { OtherSide } from './other-side';

/** Stands where a secret or password is to be written: none is ever exported. */
const ENTER = 'ENTER-THE-SECRET-HERE';

/** A text between quotes of a configuration of FreeRADIUS. */
const quoted = (text: string): string => `"${text.replace(/[\\"]/g, '\\$&').replace(/\p{Cc}/gu, ' ')}"`;

/** The name of a client, which has no blanks. */
const nameOf = (text: string): string =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'site';

/** Clients of a server as FreeRADIUS 3 reads them in `clients.conf`: one for each address that a site asks from. */
export const writeClients = (site: string, { addresses }: Pick<OtherSide, 'addresses'>): string =>
  addresses
    .map((address, i) =>
      [
        `client ${nameOf(site)}-${i + 1} {`,
        `  ${address.includes(':') ? 'ipv6addr' : 'ipaddr'} = ${address}`,
        `  secret = ${quoted(ENTER)}`,
        '  require_message_authenticator = yes',
        '}',
      ].join('\n'),
    )
    .join('\n\n')
    .concat(addresses.length > 0 ? '\n' : '');

/** One user for each class, as FreeRADIUS 3 reads them in `users`: what each is answered is what matters. */
export const writeUsers = ({ answers }: Pick<OtherSide, 'answers'>): string =>
  answers
    .map(({ name, filterId }) =>
      [
        `# Class ${name.replace(/\p{Cc}/gu, ' ')}`,
        `somebody-of-${nameOf(name)} Cleartext-Password := ${quoted(ENTER)}`,
        `\tFilter-Id = ${quoted(filterId)}`,
      ].join('\n'),
    )
    .join('\n\n')
    .concat(answers.length > 0 ? '\n' : '');
