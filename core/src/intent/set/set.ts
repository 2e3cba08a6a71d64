import type { NamedSet } from '../../rules';
import type { Purposed } from '../purpose';

/** Addresses and ports under one name, used in rules. */
export interface KeptSet extends NamedSet, Purposed {
  readonly id: string;
}
