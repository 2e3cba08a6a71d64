import type { FieldsOf, KeptOperation, OfEstate } from '../kept-list';
import type { AccessClass } from './class';

export type ClassFields = FieldsOf<AccessClass>;
export type ClassOperation = KeptOperation<'class', AccessClass, OfEstate, 'accessClass'>;
