import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyGuarantee } from './apply';
import { findGuarantees, namingOfGuarantees } from './names';
import type { GuaranteeOperation } from './operations';
import { guaranteeShapes } from './schema';
import { sharedGuarantees } from './shared';

export const guarantee: Noun<GuaranteeOperation> = {
  apply: applyGuarantee,
  shapes: guaranteeShapes,
  words: wordsOfList('guarantee', 'guarantee'),
  naming: namingOfGuarantees,
  shared: sharedGuarantees,
  find: findGuarantees,
};
