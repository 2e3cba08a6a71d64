import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyPool } from './apply';
import { findPools } from './names';
import type { PoolOperation } from './operations';

export const pool: Noun<PoolOperation> = {
  apply: applyPool,
  words: wordsOfList('pool', 'pool'),
  find: findPools,
};
