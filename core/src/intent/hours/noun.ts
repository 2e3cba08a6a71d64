import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyHours } from './apply';
import { findHours } from './names';
import type { HoursOperation } from './operations';

export const hours: Noun<HoursOperation> = {
  apply: applyHours,
  words: wordsOfList('hours', 'hours'),
  find: findHours,
};
