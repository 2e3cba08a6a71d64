import { byName, editsOfList } from '../kept-list';
import { checkSsid } from './check';
import type { SsidOperation } from './operations';
import type { Ssid } from './ssid';

/** Applies an edit of an SSID, which sites share; SSIDs stay ordered by name, which two of different sites may share. */
export const applySsid = editsOfList<SsidOperation, Ssid, 'estate'>({
  noun: 'ssid',
  title: 'SSID',
  where: 'estate',
  list: 'ssids',
  always: true,
  order: (a, b) => byName(a, b) || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0),
  purposed: true,
  check: (_intent, estate, ssid) => checkSsid(ssid, estate),
  named: 'ssid',
});
