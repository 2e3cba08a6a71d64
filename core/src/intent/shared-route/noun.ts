import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applySharedRoute } from './apply';
import { findSharedRoutes, namingOfSharedRoutes } from './names';
import type { SharedRouteOperation } from './operations';
import { sharedRoutes } from './shared';

export const sharedRoute: Noun<SharedRouteOperation> = {
  apply: applySharedRoute,
  words: wordsOfList('sharedRoute', 'route of all sites', 'route'),
  naming: namingOfSharedRoutes,
  shared: sharedRoutes,
  find: findSharedRoutes,
};
