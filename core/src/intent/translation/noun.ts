import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyTranslation } from './apply';
import { findTranslations, namingOfTranslations } from './names';
import type { TranslationOperation } from './operations';
import { translationShapes } from './schema';

export const translation: Noun<TranslationOperation> = {
  apply: applyTranslation,
  shapes: translationShapes,
  words: wordsOfList('translation', 'translation'),
  naming: namingOfTranslations,
  find: findTranslations,
};
