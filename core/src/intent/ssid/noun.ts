import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applySsid, BY_SITE } from './apply';
import { findSsids } from './names';
import type { SsidOperation } from './operations';
import { secretsOfSsid } from './secrets';
import { sharedSsids } from './shared';

const plainWords = wordsOfList<SsidOperation>('ssid', 'SSID');

/** An edit of an SSID in words. */
function ssidWords(edit: SsidOperation): string {
  if (edit.type !== 'ssid.set' || !('off' in edit.to) || Object.keys(edit.to).length > 1) return plainWords(edit);
  return edit.to.off ? 'an SSID switched off' : 'an SSID switched on';
}

export const ssid: Noun<SsidOperation> = {
  apply: applySsid,
  bySite: BY_SITE,
  words: ssidWords,
  secrets: secretsOfSsid,
  shared: sharedSsids,
  find: findSsids,
};
