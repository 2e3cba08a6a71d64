import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applySsid } from './apply';
import { findSsids } from './names';
import type { SsidOperation } from './operations';
import { ssidShapes } from './schema';
import { secretsOfSsid } from './secrets';
import { sharedSsids } from './shared';

export const ssid: Noun<SsidOperation> = {
  apply: applySsid,
  shapes: ssidShapes,
  words: wordsOfList('ssid', 'SSID'),
  secrets: secretsOfSsid,
  shared: sharedSsids,
  find: findSsids,
};
