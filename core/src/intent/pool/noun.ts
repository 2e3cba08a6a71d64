import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyPool } from './apply';
import { findPools } from './names';
import type { PoolOperation } from './operations';
import { poolShapes } from './schema';

export const pool: Noun<PoolOperation> = {
  apply: applyPool,
  shapes: poolShapes,
  words: wordsOfList('pool', 'pool'),
  find: findPools,
};
