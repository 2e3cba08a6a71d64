import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyRoute } from './apply';
import { findRoutes } from './names';
import type { RouteOperation } from './operations';

export const route: Noun<RouteOperation> = {
  apply: applyRoute,
  words: wordsOfList('route', 'route'),
  find: findRoutes,
};
