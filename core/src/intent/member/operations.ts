import type { KeptOperation, OfEstate } from '../kept-list';
import type { Member } from './member';

export type MemberOperation = KeptOperation<'member', Member, OfEstate>;
