import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyTranslation } from './apply';
import { findTranslations, namingOfTranslations } from './names';
import type { TranslationOperation } from './operations';

export const translation: Noun<TranslationOperation> = {
  apply: applyTranslation,
  words: wordsOfList('translation', 'translation'),
  naming: namingOfTranslations,
  find: findTranslations,
};
