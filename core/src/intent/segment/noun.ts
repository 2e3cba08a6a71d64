import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applySegment } from './apply';
import { findSegments } from './names';
import type { SegmentOperation } from './operations';

export const segment: Noun<SegmentOperation> = {
  apply: applySegment,
  words: wordsOfList('segment', 'segment'),
  find: findSegments,
};
