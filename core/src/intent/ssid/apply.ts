import { byName, editsOfList } from '../kept-list';
import { plainCaps } from '../../traffic';
import { checkSsid } from './check';
import type { SsidOperation } from './operations';
import type { Ssid } from './ssid';

/** An SSID without what says nothing of caps, or of the APs that send it. */
function plainSsid({ caps, aps, ...ssid }: Ssid): Ssid {
  const said = plainCaps(caps);
  const sites = Object.keys(aps ?? {}).sort();
  const sent = sites.map((id) => [id, [...aps![id]!].sort()] as const);
  return { ...ssid, ...(said ? { caps: said } : {}), ...(sent.length > 0 ? { aps: Object.fromEntries(sent) } : {}) };
}

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
  check: (_intent, estate, ssid) => checkSsid(ssid, estate),
  named: 'ssid',
});
