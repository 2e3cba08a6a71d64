import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyDuty } from './apply';
import { findDuties } from './names';
import type { DutyOperation } from './operations';

export const duty: Noun<DutyOperation> = {
  apply: applyDuty,
  words: wordsOfList('duty', 'duty'),
  find: findDuties,
};
