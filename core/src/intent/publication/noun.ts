import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyPublication } from './apply';
import { findPublications, namingOfPublications } from './names';
import type { PublicationOperation } from './operations';

export const publication: Noun<PublicationOperation> = {
  apply: applyPublication,
  words: wordsOfList('publication', 'published port', 'publication'),
  naming: namingOfPublications,
  find: findPublications,
};
