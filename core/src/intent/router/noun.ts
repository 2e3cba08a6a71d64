import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyRouter } from './apply';
import { findRouters, namingOfRouters } from './names';
import type { RouterOperation } from './operations';

export const router: Noun<RouterOperation> = {
  apply: applyRouter,
  words: wordsOfList('router', 'router'),
  naming: namingOfRouters,
  find: findRouters,
};
