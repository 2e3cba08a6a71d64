import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applySet } from './apply';
import { findSets, namingOfSets } from './names';
import type { SetOperation } from './operations';
import { sharedSets } from './shared';

export const set: Noun<SetOperation> = {
  apply: applySet,
  words: wordsOfList('set', 'set'),
  naming: namingOfSets,
  shared: sharedSets,
  find: findSets,
};
