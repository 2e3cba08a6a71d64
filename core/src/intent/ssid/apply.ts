import { byName, editsOfList } from '../kept-list';
import { plainCaps } from '../../traffic';
import { checkSsid } from './check';
import type { SsidOperation } from './operations';
import { EXCEPTABLE, type Ssid, type SsidException } from './ssid';

/** An SSID without what says nothing of caps, of the APs that send it, or of single sites. */
function plainSsid({ caps, aps, apTags, exceptions, ...ssid }: Ssid): Ssid {
  const said = plainCaps(caps);
  const sent = bySite(aps ?? {}, (ids) => [...ids].sort());
  const tags = bySite(apTags ?? {}, (tag) => tag);
  const some = Object.entries(exceptions ?? {}).filter(([, said]) => Object.keys(said).length > 0);
  const otherwise = bySite(Object.fromEntries(some), plainException);
  return {
    ...ssid,
    ...(said ? { caps: said } : {}),
    ...(sent ? { aps: sent } : {}),
    ...(tags ? { apTags: tags } : {}),
    ...(otherwise ? { exceptions: otherwise } : {}),
  };
}

/** What single sites say, in the one order it is kept in; null: nothing. */
function bySite<T>(values: Readonly<Record<string, T>>, plain: (value: T) => T): Readonly<Record<string, T>> | null {
  const ids = Object.keys(values).sort();
  return ids.length > 0 ? Object.fromEntries(ids.map((id) => [id, plain(values[id]!)])) : null;
}

/** What a site says otherwise, in the one order it is kept in. */
const plainException = (said: SsidException): SsidException =>
  Object.fromEntries(
    EXCEPTABLE.flatMap((field) => {
      const value = said[field];
      if (value === undefined) return [];
      return [[field, field === 'caps' ? (plainCaps(said.caps) ?? null) : value]];
    }),
  );

/** What an SSID says of single sites. */
export const BY_SITE = ['aps', 'apTags', 'exceptions'] as const;

/** Applies an edit of an SSID, which sites share; SSIDs stay ordered by name, which two of different sites may share. */
export const applySsid = editsOfList<SsidOperation, Ssid, 'estate'>({
  noun: 'ssid',
  title: 'SSID',
  where: 'estate',
  list: 'ssids',
  always: true,
  order: (a, b) => byName(a, b) || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0),
  purposed: true,
  normal: plainSsid,
  bySite: BY_SITE,
  check: ({ sites }, estate, ssid) => checkSsid(ssid, estate, (id) => sites.get(id)?.name),
  named: 'ssid',
});
