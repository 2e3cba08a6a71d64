import type { KeptOperation, OfScope } from '../kept-list';
import type { KeptGuarantee } from './guarantee';

export type GuaranteeOperation = KeptOperation<'guarantee', KeptGuarantee, OfScope>;
