import type { RuleEnd, RuleService } from '../../rules';
import type { Purposed } from '../purpose';

/** A sentence about traffic that has to hold for every packet; see `Guarantee` for the kinds. */
export interface KeptGuarantee extends Purposed {
  readonly id: string;
  /** `served`: whom failures of uplinks leave without internet for so long at the most. */
  readonly kind: 'never' | 'always' | 'only' | 'served';
  readonly from: readonly RuleEnd[];
  readonly to: readonly RuleEnd[];
  readonly services: readonly RuleService[];
  /** Id of the site that what it reaches is at; absent: the site that it is asked of. Not of `served`. */
  readonly toSite?: string | null;
  /** Destinations that do not count. */
  readonly besides?: readonly RuleEnd[] | null;
  /** Of segments that differ: what stays in one does not count. */
  readonly apart?: boolean | null;
  /** Of `served`: seconds that somebody waits at the most; the same of what is `always` reached at another site, though hubs fail or a tunnel is cut. */
  readonly within?: number | null;
  /** Of `served`, how many uplinks may fail at once; of what is `always` reached at another site, how many hubs that are neither of the two. */
  readonly fails?: 1 | 2 | null;
  /** Of the estate's: sites with this tag alone; absent: every site. */
  readonly tag?: string | null;
}
