import type { NamedSet } from '../../rules';

/** Addresses and ports under one name, used in rules. */
export interface KeptSet extends NamedSet {
  readonly id: string;
}
