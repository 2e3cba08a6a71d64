import type { KeptOperation, OfSite } from '../kept-list';
import type { Publication } from './publication';

export type PublicationOperation = KeptOperation<'publication', Publication, OfSite>;
