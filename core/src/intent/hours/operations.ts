import type { FieldsOf, KeptOperation, OfEstate } from '../kept-list';
import type { Hours } from './hours';

export type HoursFields = FieldsOf<Hours>;
export type HoursOperation = KeptOperation<'hours', Hours, OfEstate>;
