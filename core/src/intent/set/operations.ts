import type { KeptOperation, OfScope } from '../kept-list';
import type { KeptSet } from './set';

export type SetOperation = KeptOperation<'set', KeptSet, OfScope>;
