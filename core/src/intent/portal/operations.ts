import type { FieldsOf, KeptOperation, OfEstate } from '../kept-list';
import type { Portal } from './portal';

export type PortalFields = FieldsOf<Portal>;
export type PortalOperation = KeptOperation<'portal', Portal, OfEstate>;
