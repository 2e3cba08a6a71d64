import { byName, editsOfList } from '../kept-list';
import { plainCaps } from '../../traffic';
import { checkSsid } from './check';
import type { SsidOperation } from './operations';
import type { Ssid } from './ssid';

/** An SSID without what says nothing of caps. */
function plainSsid({ caps, ...ssid }: Ssid): Ssid {
  const said = plainCaps(caps);
  return said ? { ...ssid, caps: said } : ssid;
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
