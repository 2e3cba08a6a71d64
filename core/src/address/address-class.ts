import type { IpAddress } from './ip';
import { contains, parsePrefix, type Prefix } from './prefix';

export type AddressClass =
  | 'unspecified'
  | 'loopback'
  | 'private'
  | 'shared'
  | 'link_local'
  | 'ula'
  | 'documentation'
  | 'benchmark'
  | 'multicast'
  | 'limited_broadcast'
  | 'reserved'
  | 'global';

/** First match decides, so the single broadcast address stands before its reserved block. */
const BLOCKS: readonly (readonly [Prefix, AddressClass])[] = (
  [
    ['0.0.0.0/32', 'unspecified'], // RFC 1122 §3.2.1.3
    ['127.0.0.0/8', 'loopback'], // RFC 1122 §3.2.1.3
    ['10.0.0.0/8', 'private'], // RFC 1918 §3
    ['172.16.0.0/12', 'private'],
    ['192.168.0.0/16', 'private'],
    ['100.64.0.0/10', 'shared'], // RFC 6598 §7
    ['169.254.0.0/16', 'link_local'], // RFC 3927
    ['192.0.2.0/24', 'documentation'], // RFC 5737
    ['198.51.100.0/24', 'documentation'],
    ['203.0.113.0/24', 'documentation'],
    ['198.18.0.0/15', 'benchmark'], // RFC 2544
    ['224.0.0.0/4', 'multicast'], // RFC 5771
    ['255.255.255.255/32', 'limited_broadcast'], // RFC 919
    ['240.0.0.0/4', 'reserved'], // RFC 1112 §4
    ['::/128', 'unspecified'], // RFC 4291 §2.5.2
    ['::1/128', 'loopback'], // RFC 4291 §2.5.3
    ['fc00::/7', 'ula'], // RFC 4193
    ['fe80::/10', 'link_local'], // RFC 4291 §2.5.6
    ['ff00::/8', 'multicast'], // RFC 4291 §2.7
    ['2001:db8::/32', 'documentation'], // RFC 3849
    ['2001:2::/48', 'benchmark'], // RFC 5180
  ] as const
).map(([text, name]) => [parsePrefix(text)!, name]);

/** What an address is set aside for; `global` when nothing here claims it. */
export const classOf = (ip: IpAddress): AddressClass => BLOCKS.find(([block]) => contains(block, ip))?.[1] ?? 'global';

/** Private space, which no provider carries (RFC 1918 §3, RFC 4193 §4). */
export const PRIVATE_PREFIXES: readonly Prefix[] = BLOCKS.flatMap(([prefix, name]) =>
  name === 'private' || name === 'ula' ? [prefix] : [],
);

const UNANSWERED: ReadonlySet<AddressClass> = new Set(['private', 'shared', 'link_local', 'ula']);

/** Whether nobody on the internet can send to an address: it is of private space, or of a provider’s own (RFC 1918, RFC 6598, RFC 3927, RFC 4193). */
export const isUnanswered = (ip: IpAddress): boolean => UNANSWERED.has(classOf(ip));
