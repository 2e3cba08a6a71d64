import type { FieldsOf, KeptOperation, OfEstate } from '../kept-list';
import type { Ssid } from './ssid';

export type SsidFields = FieldsOf<Ssid>;
export type SsidOperation = KeptOperation<'ssid', Ssid, OfEstate>;
