import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyGuarantee } from './apply';
import { namingOfGuarantees } from './names';
import type { GuaranteeOperation } from './operations';
import { guaranteeShapes } from './schema';

export const guarantee: Noun<GuaranteeOperation> = {
  apply: applyGuarantee,
  shapes: guaranteeShapes,
  words: wordsOfList('guarantee', 'guarantee'),
  naming: namingOfGuarantees,
};
