import type { OtherSide, RingAsked } from './other-side';

/** Stands where a secret or password is to be written: none is ever exported. */
const ENTER = 'ENTER-THE-SECRET-HERE';
const KEY = 'ENTER-THE-KEY-HERE';

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

/** One line of a comment. */
const plain = (text: string): string => text.replace(/\p{Cc}/gu, ' ');

/**
 * One user for each class, one client with a key for each segment that keys of an SSID may lead to, and one whose key leads to a class, as
 * FreeRADIUS 3 reads them in `users`: what each is answered is what matters.
 */
export function writeUsers({ answers, rings }: Pick<OtherSide, 'answers' | 'rings'>): string {
  const ofClasses = answers.map(({ name, filterId }) =>
    [
      `# Class ${plain(name)}`,
      `somebody-of-${nameOf(name)} Cleartext-Password := ${quoted(ENTER)}`,
      `\tFilter-Id = ${quoted(filterId)}`,
    ].join('\n'),
  );
  const all = [...ofClasses, ...rings.flatMap(keyUser)];
  return all.join('\n\n').concat(all.length > 0 ? '\n' : '');
}

/** Segments of one answer: so many tags there are (RFC 2868 §3.1). */
const MOST_TAGS = 31;

/** A client that may give a key for each segment: each tag parts a key and where it leads from the others (RFC 2868 §3). */
function keyUser({ ssid, user, segments, byClass }: RingAsked): string[] {
  if (segments.length === 0) return [];
  const lines = segments
    .slice(0, MOST_TAGS)
    .flatMap((segment, i) => [
      `\tTunnel-Password:${i + 1} = ${quoted(KEY)}`,
      `\tTunnel-Type:${i + 1} = VLAN`,
      `\tTunnel-Medium-Type:${i + 1} = IEEE-802`,
      `\tTunnel-Private-Group-Id:${i + 1} = ${quoted(segment)}`,
    ]);
  return [
    [
      `# Keys of “${plain(ssid)}” that one client may give: its MAC address is its name`,
      `${user} Cleartext-Password := ${quoted(user)}`,
      lines.join(',\n'),
    ].join('\n'),
    ...(byClass
      ? [
          [
            `# A key of it that leads to a class: ${byClass.classes.map(plain).join(', ')}`,
            `${byClass.user} Cleartext-Password := ${quoted(byClass.user)}`,
            `\tTunnel-Password:0 = ${quoted(KEY)},`,
            `\tFilter-Id = ${quoted(byClass.classes[0]!)}`,
          ].join('\n'),
        ]
      : []),
  ];
}
