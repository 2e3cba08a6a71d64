import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyPortal } from './apply';
import { findPortals } from './names';
import type { PortalOperation } from './operations';
import { secretsOfPortal } from './secrets';

export const portal: Noun<PortalOperation> = {
  apply: applyPortal,
  words: wordsOfList('portal', 'portal'),
  find: findPortals,
  secrets: secretsOfPortal,
};
