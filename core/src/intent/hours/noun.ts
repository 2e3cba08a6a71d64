import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyHours } from './apply';
import { findHours } from './names';
import type { HoursOperation } from './operations';
import { hoursShapes } from './schema';

export const hours: Noun<HoursOperation> = {
  apply: applyHours,
  shapes: hoursShapes,
  words: wordsOfList('hours', 'hours'),
  find: findHours,
};
