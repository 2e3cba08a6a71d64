import type { FieldsOf, KeptOperation, OfEstate } from '../kept-list';
import type { RadiusServer } from './radius';

export type RadiusFields = FieldsOf<RadiusServer>;
export type RadiusOperation = KeptOperation<'radius', RadiusServer, OfEstate>;
