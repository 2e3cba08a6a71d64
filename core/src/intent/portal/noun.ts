import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyPortal } from './apply';
import { findPortals } from './names';
import type { PortalOperation } from './operations';
import { portalShapes } from './schema';
import { secretsOfPortal } from './secrets';

export const portal: Noun<PortalOperation> = {
  apply: applyPortal,
  shapes: portalShapes,
  words: wordsOfList('portal', 'portal'),
  find: findPortals,
  secrets: secretsOfPortal,
};
