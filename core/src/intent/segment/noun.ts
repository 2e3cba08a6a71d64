import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applySegment } from './apply';
import { findSegments } from './names';
import type { SegmentOperation } from './operations';
import { segmentShapes } from './schema';

export const segment: Noun<SegmentOperation> = {
  apply: applySegment,
  shapes: segmentShapes,
  words: wordsOfList('segment', 'segment'),
  find: findSegments,
};
