import { CIPHERS, GROUPS, HASHES, IKE_PORT, NAT_PORT, type Offer } from '../ike';
import type { SwanctlSide } from './swanctl';

const listed = <T extends string>(of: Readonly<Record<T, { readonly title: string }>>, names: readonly T[]): string =>
  names.map((name) => of[name].title).join('; ') || 'none';

const offered = ({ ciphers, hashes, groups }: Offer): (readonly [string, string])[] => [
  ['Encryption', listed(CIPHERS, ciphers)],
  ['Integrity and PRF', listed(HASHES, hashes)],
  ['Diffie-Hellman groups', listed(GROUPS, groups)],
];

/**
 * What the people of the other gateway have to put in, as a sheet that a person reads, whatever gateway they have.
 * @param side theirs. @param from who asks for it.
 */
export function pactSheetOf(side: SwanctlSide, from: string): string {
  const rows: readonly (readonly [string, string] | string)[] = [
    'THE OTHER END',
    ['Address', side.at ?? 'none that is fixed: it calls you'],
    ['Its identity', side.other],
    ['Your identity', side.own],
    ['Protocol', `IKEv2 (RFC 7296), pre-shared key; UDP ${IKE_PORT} and ${NAT_PORT}, and ESP, have to come through`],
    ['Pre-shared key', side.key ?? 'comes another way'],
    'THE EXCHANGE (IKE), the preferred first',
    ...offered(side.ike),
    ['Lifetime', `${side.lasts.ike} s`],
    'PACKETS (ESP, tunnel mode), the preferred first',
    ...offered(side.esp),
    ['Lifetime', `${side.lasts.esp} s`],
    'WHAT GOES IN (traffic selectors), all in one tunnel',
    ['Your networks', side.here.join(', ')],
    ['Networks of the other end', side.there.join(', ')],
  ];
  const lines = rows.map((row) => (typeof row === 'string' ? `\n${row}` : `  ${row[0].padEnd(26)}${row[1]}`));
  return `${`Tunnel “${side.name}”, for ${from}`.replace(/[\r\n]/g, ' ')}\n${lines.join('\n')}\n`;
}
