import type { Noun } from '../noun';
import { applyPair } from './apply';
import type { PairOperation } from './operations';

export const pair: Noun<PairOperation> = {
  apply: applyPair,
  words: ({ from, to }) => `the pair of gateways ${from ? (to ? 'changed' : 'taken apart') : 'made'}`,
};
