import type { KeptOperation, OfSite } from '../kept-list';
import type { StaticRoute } from './route';

export type RouteOperation = KeptOperation<'route', StaticRoute, OfSite>;
