import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyGuarantee } from './apply';
import { findGuarantees, namingOfGuarantees } from './names';
import type { GuaranteeOperation } from './operations';
import { sharedGuarantees } from './shared';

export const guarantee: Noun<GuaranteeOperation> = {
  apply: applyGuarantee,
  words: wordsOfList('guarantee', 'guarantee'),
  naming: namingOfGuarantees,
  shared: sharedGuarantees,
  find: findGuarantees,
};
