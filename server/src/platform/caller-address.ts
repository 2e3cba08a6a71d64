import { isIP } from 'node:net';
import type { IncomingMessage } from 'node:http';

/** Who sends a request, and whether it came over TLS (RFC 8446). */
export interface Caller {
  readonly address: string;
  readonly secure: boolean;
}

type Heard = Pick<IncomingMessage, 'headers'> & {
  readonly socket: { readonly remoteAddress?: string | undefined; readonly encrypted?: boolean };
};

/** An address as a socket shows it, without the prefix of IPv4 in IPv6 (RFC 4291 §2.5.5.2). */
const plain = (address: string | undefined): string => (address ?? '').replace(/^::ffff:/i, '');
/** The last of what a field holds: what stands before it is anybody’s word. */
const lastOf = (said: string | string[] | undefined): string =>
  (Array.isArray(said) ? said.join() : (said ?? '')).split(',').at(-1)!.trim();

/**
 * Who sends a request. Where it comes from a balancer of ours, the one that the balancer heard it from: the last of its
 * `X-Forwarded-For`, and of its `X-Forwarded-Proto`. Of others neither field is believed.
 * @param proxies addresses of our balancers.
 */
export function callerOf({ socket, headers }: Heard, proxies: readonly string[]): Caller {
  const near = plain(socket.remoteAddress);
  if (!proxies.includes(near)) return { address: near, secure: socket.encrypted === true };
  const said = plain(lastOf(headers['x-forwarded-for']));
  return {
    address: isIP(said) === 0 ? near : said,
    secure: lastOf(headers['x-forwarded-proto']).toLowerCase() === 'https',
  };
}
