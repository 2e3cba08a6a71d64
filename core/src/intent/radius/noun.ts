import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyRadius } from './apply';
import { findServers } from './names';
import type { RadiusOperation } from './operations';
import { secretsOfRadius } from './secrets';
import { sharedServers } from './shared';

export const radius: Noun<RadiusOperation> = {
  apply: applyRadius,
  words: wordsOfList('radius', 'RADIUS server'),
  secrets: secretsOfRadius,
  shared: sharedServers,
  find: findServers,
};
