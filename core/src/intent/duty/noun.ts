import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyDuty } from './apply';
import { findDuties } from './names';
import type { DutyOperation } from './operations';
import { dutyShapes } from './schema';

export const duty: Noun<DutyOperation> = {
  apply: applyDuty,
  shapes: dutyShapes,
  words: wordsOfList('duty', 'duty'),
  find: findDuties,
};
