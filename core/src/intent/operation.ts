import type { Rule } from '../rules';
import type { AccessClass, KeptGuarantee, KeptSet, Recipe, Ssid, VlanPool } from './nouns';
import type { PortDuty, PortEntry } from './port';
import type { Segment } from './segment';

/** The fields of a segment that an edit may change. */
export type SegmentFields = Omit<Segment, 'id'>;
export type SsidFields = Omit<Ssid, 'id'>;
export type ClassFields = Omit<AccessClass, 'id'>;

/** Fields of a noun as somebody saw them, and as they are to be. */
interface Change<Fields> {
  readonly from: Partial<Fields>;
  readonly to: Partial<Fields>;
}

/**
 * One typed edit of intent. A `set` names the values it saw (`from`) as well as those it wants (`to`), so that it
 * is refused rather than merged when somebody else changed the same field in between.
 */
export type Operation =
  | { readonly type: 'segment.add'; readonly siteId: string; readonly segment: Segment }
  | { readonly type: 'segment.remove'; readonly siteId: string; readonly segmentId: string }
  | ({ readonly type: 'segment.set'; readonly siteId: string; readonly segmentId: string } & Change<SegmentFields>)
  | PortTagOperation<'port.tag'>
  | PortTagOperation<'port.untag'>
  | {
      readonly type: 'port.untagged';
      readonly siteId: string;
      readonly deviceId: string;
      readonly port: string;
      readonly from: string | null;
      readonly to: string | null;
    }
  | {
      readonly type: 'port.set';
      readonly siteId: string;
      readonly deviceId: string;
      readonly port: string;
      /** All that was said of the port; null: nothing. */
      readonly from: PortEntry | null;
      readonly to: PortEntry | null;
    }
  | { readonly type: 'duty.add'; readonly siteId: string; readonly duty: PortDuty }
  | { readonly type: 'duty.remove'; readonly siteId: string; readonly dutyId: string }
  | ({ readonly type: 'duty.set'; readonly siteId: string; readonly dutyId: string } & Change<PortDuty>)
  | { readonly type: 'pool.add'; readonly siteId: string; readonly pool: VlanPool }
  | { readonly type: 'pool.remove'; readonly siteId: string; readonly poolId: string }
  | ({ readonly type: 'pool.set'; readonly siteId: string; readonly poolId: string } & Change<VlanPool>)
  | RuleOperation
  | SetOperation
  | GuaranteeOperation
  | { readonly type: 'controller.set'; readonly from: readonly string[]; readonly to: readonly string[] }
  | { readonly type: 'recipe.add'; readonly recipe: Recipe }
  | { readonly type: 'recipe.remove'; readonly recipeId: string }
  | ({ readonly type: 'recipe.set'; readonly recipeId: string } & Change<Recipe>)
  | { readonly type: 'class.add'; readonly accessClass: AccessClass }
  | { readonly type: 'class.remove'; readonly classId: string }
  | ({ readonly type: 'class.set'; readonly classId: string } & Change<ClassFields>)
  | { readonly type: 'ssid.add'; readonly ssid: Ssid }
  | { readonly type: 'ssid.remove'; readonly ssidId: string }
  | ({ readonly type: 'ssid.set'; readonly ssidId: string } & Change<SsidFields>);

/** The rulebook of a site, or one of the estate's. */
export type OfBook = { readonly siteId: string } | { readonly book: 'before' | 'after' };
/** What belongs to a site, or to the estate. */
export type OfScope = { readonly siteId: string } | { readonly shared: true };
export type RuleFields = Omit<Rule, 'id'>;

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
export type SetOperation =
  | ({ readonly type: 'set.add'; readonly set: KeptSet } & OfScope)
  | ({ readonly type: 'set.remove'; readonly setId: string } & OfScope)
  | ({ readonly type: 'set.set'; readonly setId: string } & Change<KeptSet> & OfScope);
export type GuaranteeOperation =
  | ({ readonly type: 'guarantee.add'; readonly guarantee: KeptGuarantee } & OfScope)
  | ({ readonly type: 'guarantee.remove'; readonly guaranteeId: string } & OfScope)
  | ({ readonly type: 'guarantee.set'; readonly guaranteeId: string } & Change<KeptGuarantee> & OfScope);

/** Adds one tagged segment to a port, or takes it off. */
export interface PortTagOperation<T extends 'port.tag' | 'port.untag'> {
  readonly type: T;
  readonly siteId: string;
  readonly deviceId: string;
  readonly port: string;
  readonly segmentId: string;
}

export type OperationType = Operation['type'];

/** Key of the part an operation changes: a site's id, or `estate`. */
export const partKeyOf = (operation: Operation): string => ('siteId' in operation ? operation.siteId : 'estate');
