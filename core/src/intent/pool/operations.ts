import type { KeptOperation, OfSite } from '../kept-list';
import type { VlanPool } from './pool';

export type PoolOperation = KeptOperation<'pool', VlanPool, OfSite>;
