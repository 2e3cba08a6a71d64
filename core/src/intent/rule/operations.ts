import type { Rule } from '../../rules';
import type { Change } from '../field-change';
import type { FieldsOf, OfSite } from '../kept-list';

/** The rulebook of a site, or one of the estate's. */
export type OfBook = OfSite | { readonly book: 'before' | 'after' };
export type RuleFields = FieldsOf<Rule>;

/** `behind`: id of the rule that something comes after; null: the first. */
export type RuleOperation =
  | ({ readonly type: 'rule.add'; readonly rules: readonly Rule[]; readonly behind: string | null } & OfBook)
  /** Rules that follow each other. */
  | ({ readonly type: 'rule.remove'; readonly ruleIds: readonly string[] } & OfBook)
  | ({ readonly type: 'rule.set'; readonly ruleId: string } & Change<RuleFields> & OfBook)
  | ({
      readonly type: 'rule.move';
      readonly ruleId: string;
      readonly from: string | null;
      readonly to: string | null;
    } & OfBook);
