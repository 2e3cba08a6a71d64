import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyClass } from './apply';
import { findClasses } from './names';
import type { ClassOperation } from './operations';
import { sharedClasses } from './shared';

export const accessClass: Noun<ClassOperation> = {
  apply: applyClass,
  words: wordsOfList('class', 'class', 'accessClass'),
  shared: sharedClasses,
  find: findClasses,
};
