import { X509Certificate } from 'node:crypto';
import type { EndingAuthority } from '@iron-lattice/core/assess';
import type { RadiusServer } from '@iron-lattice/core/intent';

/** How long before its end somebody has to know of it, in milliseconds. */
const SOON_MS = 30 * 86_400_000;
/** Certificates whose ends are remembered. */
const MOST_KNOWN = 1000;
const ends = new Map<string, number | null>();

/** The first moment at which one of some certificates ends, in milliseconds since 1970; null: they cannot be read. */
function firstEnd(pem: string): number | null {
  const known = ends.get(pem);
  if (known !== undefined) return known;
  let end: number | null = null;
  try {
    const all = pem.match(/-----BEGIN CERTIFICATE-----[^-]+-----END CERTIFICATE-----/g) ?? [];
    end = all.length === 0 ? null : Math.min(...all.map((each) => Date.parse(new X509Certificate(each).validTo)));
  } catch {
    // what is no certificate is told as such
  }
  if (ends.size >= MOST_KNOWN) ends.delete(ends.keys().next().value!);
  ends.set(pem, end);
  return end;
}

/** Servers whose authority ends within 30 days, ended, or cannot be read: nobody believes them after that. */
export const endingAuthorities = (
  servers: readonly Pick<RadiusServer, 'id' | 'authority'>[],
  now: number,
): EndingAuthority[] =>
  servers.flatMap(({ id, authority }): EndingAuthority[] => {
    if (!authority) return [];
    const end = firstEnd(authority);
    if (end === null || Number.isNaN(end)) return [{ radiusId: id, day: null, over: false }];
    if (end - now > SOON_MS) return [];
    return [{ radiusId: id, day: new Date(end).toISOString().slice(0, 10), over: end <= now }];
  });
