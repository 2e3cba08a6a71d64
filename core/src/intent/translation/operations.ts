import type { KeptOperation, OfSite } from '../kept-list';
import type { Translation } from './translation';

export type TranslationOperation = KeptOperation<'translation', Translation, OfSite>;
