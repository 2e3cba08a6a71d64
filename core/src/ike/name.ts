import { parseIp } from '../address';

/** What kind of name a gateway gives itself (RFC 7296 §3.5). */
export type NameKind = 'address' | 'host' | 'mail';

const HOST = /^(?=.{1,120}$)[a-z0-9]([a-z0-9-]*[a-z0-9])?(\.[a-z0-9]([a-z0-9-]*[a-z0-9])?)*$/i;
const MAIL = /^[^\s@"]{1,60}@(?=.{1,60}$)[a-z0-9-]+(\.[a-z0-9-]+)*$/i;

/** The kind of a name; null where it is none that the exchange can carry. */
export function nameKind(text: string): NameKind | null {
  if (parseIp(text)) return 'address';
  if (/^[\d.]+$/.test(text)) return null;
  if (HOST.test(text)) return 'host';
  return MAIL.test(text) ? 'mail' : null;
}
