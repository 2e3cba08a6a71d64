import type { RuleEnd, RuleService } from '../../rules';
import type { Purposed } from '../purpose';

/** A sentence about traffic that has to hold for every packet; see `Guarantee` for the kinds. */
export interface KeptGuarantee extends Purposed {
  readonly id: string;
  readonly kind: 'never' | 'always' | 'only';
  readonly from: readonly RuleEnd[];
  readonly to: readonly RuleEnd[];
  readonly services: readonly RuleService[];
  /** Destinations that do not count. */
  readonly besides?: readonly RuleEnd[] | null;
  /** Of segments that differ: what stays in one does not count. */
  readonly apart?: boolean | null;
  /** Of the estate's: sites with this tag alone; absent: every site. */
  readonly tag?: string | null;
}
