import type { KeptOperation, OfSite } from '../kept-list';
import type { SiteRouter } from './router';

export type RouterOperation = KeptOperation<'router', SiteRouter, OfSite>;
