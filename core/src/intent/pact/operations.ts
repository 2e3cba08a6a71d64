import type { KeptOperation, OfSite } from '../kept-list';
import type { Pact } from './pact';

export type PactOperation = KeptOperation<'pact', Pact, OfSite>;
