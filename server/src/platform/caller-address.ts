import { isIP } from 'node:net';
import type { IncomingMessage } from 'node:http';

/** An address as a socket shows it, without the prefix of IPv4 in IPv6 (RFC 4291 §2.5.5.2). */
const plain = (address: string | undefined): string => (address ?? '').replace(/^::ffff:/i, '');

/**
 * Who sends a request. Where it comes from a balancer of ours, the one that the balancer heard it from: the last of its
 * `X-Forwarded-For`. What stands before that is anybody’s word; of others the whole field is.
 * @param proxies addresses of our balancers.
 */
export function callerAddress(
  {
    socket,
    headers,
  }: Pick<IncomingMessage, 'headers'> & { readonly socket: { readonly remoteAddress?: string | undefined } },
  proxies: readonly string[],
): string {
  const near = plain(socket.remoteAddress);
  if (!proxies.includes(near)) return near;
  const said = headers['x-forwarded-for'];
  const last = plain((Array.isArray(said) ? said.join() : (said ?? '')).split(',').at(-1)?.trim());
  return isIP(last) === 0 ? near : last;
}
