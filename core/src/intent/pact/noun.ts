import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyPact } from './apply';
import { findPacts } from './names';
import type { PactOperation } from './operations';
import { secretsOfPact } from './secrets';

export const pact: Noun<PactOperation> = {
  apply: applyPact,
  words: wordsOfList('pact', 'tunnel'),
  secrets: secretsOfPact,
  find: findPacts,
};
