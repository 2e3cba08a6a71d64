import type { IncomingMessage } from 'node:http';

/**
 * Has a request's target as a path with its query, whichever form it came in (RFC 9112 §3.2).
 * @returns whether it is one at all.
 */
export function readTarget(request: IncomingMessage): boolean {
  const target = request.url ?? '';
  if (target.startsWith('/') && URL.canParse(`http://host${target}`)) return true;
  if (!/^https?:\/\//i.test(target) || !URL.canParse(target)) return false;
  const { pathname, search } = new URL(target);
  request.url = `${pathname}${search}`;
  return true;
}
