import type { KeptOperation, OfEstate } from '../kept-list';
import type { SharedRoute } from './shared-route';

export type SharedRouteOperation = KeptOperation<'sharedRoute', SharedRoute, OfEstate, 'route'>;
