import type { KeptOperation, OfSite } from '../kept-list';
import type { PortDuty } from './duty';

export type DutyOperation = KeptOperation<'duty', PortDuty, OfSite>;
