import { parseIp } from '../address';

const PAGE =
  /^(https?):\/\/(\[[0-9a-f:.]+\]|[a-z0-9.-]+)(:\d{1,5})?([/?#][\x21\x23-\x3b\x3d\x3f-\x5b\x5d\x5f\x61-\x7a\x7c\x7e]*)?$/i;
const HOST = /^([a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?\.)*[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/;

/**
 * Reads the whole address of a page that somebody may be sent to: http or https, a host, maybe a port, a path, a question (RFC 3986 §3).
 * Nobody’s name stands in it, no quotes, no brackets of HTML, no backslash.
 * @returns its host in lower case; null where it is none.
 */
export function readPage(text: string): { readonly host: string; readonly secure: boolean } | null {
  const [, scheme = '', host = '', port = ''] = PAGE.exec(text) ?? [];
  if (scheme === '' || Number(port.slice(1)) > 65_535) return null;
  const name = host.toLowerCase();
  const six = name.startsWith('[');
  if (six ? parseIp(name.slice(1, -1))?.version !== 6 : name.length > 253 || !HOST.test(name)) return null;
  return { host: six ? name.slice(1, -1) : name, secure: scheme.toLowerCase() === 'https' };
}
