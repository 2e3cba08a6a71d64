import type { FieldsOf, KeptOperation, OfSite } from '../kept-list';
import type { Segment } from './segment';

/** The fields of a segment that an edit may change. */
export type SegmentFields = FieldsOf<Segment>;
export type SegmentOperation = KeptOperation<'segment', Segment, OfSite>;
